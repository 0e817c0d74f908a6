import createClient, { type Middleware } from "openapi-fetch";

import { takeEarly } from "../early";

import type { components, paths } from "./generated/schema";

export type Schemas = components["schemas"];

type Problem = Partial<Schemas["Problem"]>;

/** What the server says is wrong: a sentence for the whole, sentences by field, and how the thing stands now. */
export class ApiError extends Error {
  readonly fields: Record<string, string>;
  readonly headings: string[];
  readonly current: Record<string, unknown> | null;

  constructor(
    readonly status: number,
    readonly problem: Problem,
  ) {
    super(problem.detail ?? `The server answered ${status}.`);
    this.fields = Object.fromEntries(
      Object.entries(problem.errors ?? {}).map(([name, sentences]) => [name, sentences.join(" ")]),
    );
    this.headings = problem.headings ?? [];
    this.current = problem.current ?? null;
  }
}

export const SESSION_ENDED = "coombe:session-ended";
/** The server is another Coombe than the one whose scripts this page has. */
export const UPGRADED = "coombe:upgraded";
/** Something was changed that can be taken back; the detail is the number of the action. */
export const ACTION_DONE = "coombe:action-done";

export function csrfToken(): string {
  return /(?:^|; )csrftoken=([^;]*)/.exec(document.cookie)?.[1] ?? "";
}

/** Tells the frame that an answer's request changed something that can be taken back. */
export function tellOfAction(headers: Headers): void {
  const action = headers.get("Coombe-Action");
  if (action) window.dispatchEvent(new CustomEvent(ACTION_DONE, { detail: Number(action) }));
}

/** Reads the server's answer to a refused request; tells the frame where the session has ended. */
export function refusal(status: number, body: unknown): ApiError {
  const problem: Problem = body && typeof body === "object" ? body : {};
  if (problem.code === "not_authenticated") {
    window.dispatchEvent(new Event(SESSION_ENDED));
    const detail = "The log-in has ended. Log in again; what you typed is still here.";
    return new ApiError(status, { ...problem, detail });
  }
  return new ApiError(status, problem);
}

let build: string | null = null;

/** Tells the frame once an answer comes from another build than the first one did. */
export function noticeBuild(headers: Headers): void {
  const now = headers.get("Coombe-Build");
  if (build && now && now !== build) window.dispatchEvent(new Event(UPGRADED));
  build ??= now;
}

const guard: Middleware = {
  onRequest({ request }) {
    if (request.method !== "GET") request.headers.set("X-CSRFToken", csrfToken());
    return request;
  },
  async onResponse({ response }) {
    tellOfAction(response.headers);
    noticeBuild(response.headers);
    if (response.ok) return response;
    throw refusal(response.status, await response.json().catch(() => null));
  },
  onError() {
    return new ApiError(0, { detail: "The server does not answer. Check that Coombe is running." });
  },
};

export const api = createClient<paths>({
  baseUrl: "/",
  fetch: async (request) => (await takeEarly(request)) ?? fetch(request),
});
api.use(guard);

/** The body of an answer that was not refused. */
export function body<T>(answer: { data?: T }): T {
  if (answer.data === undefined) throw new ApiError(0, { detail: "The server sent an empty answer." });
  return answer.data;
}
