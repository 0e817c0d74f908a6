import createClient, { type Middleware } from "openapi-fetch";

import type { components, paths } from "./generated/schema";

export type Schemas = components["schemas"];

/** What the server says is wrong: sentences by field, or one for the whole. */
export class ApiError extends Error {
  constructor(
    readonly status: number,
    readonly fields: Record<string, string>,
  ) {
    super(Object.values(fields).join(" ") || `The server answered ${status}.`);
  }
}

export const SESSION_ENDED = "coombe:session-ended";

export function csrfToken(): string {
  return /(?:^|; )csrftoken=([^;]*)/.exec(document.cookie)?.[1] ?? "";
}

/** Reads the server's answer to a refused request; tells the frame where the session has ended. */
export function refusal(status: number, body: unknown): ApiError {
  const fields: Record<string, string> = {};
  if (body && typeof body === "object") {
    for (const [name, said] of Object.entries(body)) {
      if (name !== "code") fields[name] = Array.isArray(said) ? said.join(" ") : String(said);
    }
    if ("code" in body && body.code === "not_authenticated") {
      window.dispatchEvent(new Event(SESSION_ENDED));
      return new ApiError(status, {
        detail: "The log-in has ended. Log in again; what you typed is still here.",
      });
    }
  }
  return new ApiError(status, fields);
}

const guard: Middleware = {
  onRequest({ request }) {
    if (request.method !== "GET") request.headers.set("X-CSRFToken", csrfToken());
    return request;
  },
  async onResponse({ response }) {
    if (response.ok) return response;
    throw refusal(response.status, await response.json().catch(() => null));
  },
  onError() {
    return new ApiError(0, { detail: "The server does not answer. Check that Coombe is running." });
  },
};

export const api = createClient<paths>({ baseUrl: "/" });
api.use(guard);

/** The body of an answer that was not refused. */
export function body<T>(answer: { data?: T }): T {
  if (answer.data === undefined) throw new ApiError(0, { detail: "The server sent an empty answer." });
  return answer.data;
}
