import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";

import { api, body, type Schemas } from "../../api/client";

export type Day = Schemas["Day"];
export type Step = Schemas["PlannedRun"];
export type CheckItem = Schemas["CheckItem"];

/** What became of a planned run, in the words of the buttons. */
export const STATE_WORDS = { open: "open", done: "driven", skipped: "skipped" } as const;

export function useDay(id: number) {
  return useQuery({
    queryKey: ["days", id],
    queryFn: async () => body(await api.GET("/api/days/{id}/", { params: { path: { id } } })),
  });
}

function useRefresh() {
  const client = useQueryClient();
  return async () => {
    await client.invalidateQueries({ queryKey: ["days"] });
    await client.invalidateQueries({ queryKey: ["plans"] });
  };
}

export function useAddDay() {
  return useMutation({
    mutationFn: async (day: Schemas["DayRequest"]) => body(await api.POST("/api/days/", { body: day })),
    onSuccess: useRefresh(),
  });
}

export function useChangeDay(id: number) {
  return useMutation({
    mutationFn: async (changes: Schemas["PatchedDayRequest"]) =>
      body(await api.PATCH("/api/days/{id}/", { params: { path: { id } }, body: changes })),
    onSuccess: useRefresh(),
  });
}

/** Everything that is done to a day's runs and checks while it goes on. */
export function useDayActions(day: number) {
  const client = useQueryClient();
  const refresh = useRefresh();
  const act = <T>(mutationFn: (given: T) => Promise<unknown>) => ({
    mutationFn,
    onSuccess: refresh,
    onError: refresh,
  });
  const settle = useMutation(
    act(async ({ id, ...changes }: { id: number } & Schemas["PatchedPlannedRunRequest"]) =>
      body(await api.PATCH("/api/planned-runs/{id}/", { params: { path: { id } }, body: changes })),
    ),
  );
  const repeat = useMutation(
    act(async (id: number) =>
      body(await api.POST("/api/planned-runs/{id}/repeat/", { params: { path: { id } } })),
    ),
  );
  const add = useMutation(
    act(async (step: Schemas["PlannedRunRequest"]) =>
      body(await api.POST("/api/planned-runs/", { body: step })),
    ),
  );
  const reorder = useMutation(
    act(async (ids: number[]) =>
      body(await api.POST("/api/days/{id}/reorder/", { params: { path: { id: day } }, body: { ids } })),
    ),
  );
  const check = useMutation({
    ...act(async ({ id, ...changes }: { id: number } & Schemas["PatchedCheckItemRequest"]) =>
      body(await api.PATCH("/api/check-items/{id}/", { params: { path: { id } }, body: changes })),
    ),
    // The tick shows at once: cold hands tick the next line before the server has answered.
    onMutate: async ({ id, signed }) => {
      await client.cancelQueries({ queryKey: ["days", day] });
      client.setQueryData<Day>(["days", day], (old) =>
        old && signed !== undefined ? ticked(old, id, signed) : old,
      );
    },
  });
  const addCheck = useMutation(
    act(async (item: Schemas["CheckItemRequest"]) =>
      body(await api.POST("/api/check-items/", { body: item })),
    ),
  );
  const signAgain = useMutation(
    act(async () => body(await api.POST("/api/days/{id}/sign-again/", { params: { path: { id: day } } }))),
  );
  const error =
    [settle, repeat, add, reorder, check, addCheck, signAgain].find((each) => each.error)?.error ?? null;
  return { settle, repeat, add, reorder, check, addCheck, signAgain, error };
}

function ticked(day: Day, id: number, signed: boolean): Day {
  const checks = day.checks.map((item) =>
    item.id === id ? { ...item, signed_by: signed ? "…" : null, revision: (item.revision ?? 0) + 1 } : item,
  );
  return { ...day, checks };
}
