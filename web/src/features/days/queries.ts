import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";

import { api, body, type Schemas } from "../../api/client";

export type Day = Schemas["Day"];
export type Step = Schemas["ScheduledRun"];
export type ChecklistItem = Schemas["ChecklistItem"];

/** What became of a planned run, in the words of the buttons. */
export const STATE_WORDS = { open: "open", done: "driven", skipped: "skipped" } as const;

export function useDay(id: number) {
  return useQuery({
    queryKey: ["days", id],
    queryFn: async () => body(await api.GET("/api/v1/test-days/{id}/", { params: { path: { id } } })),
  });
}

function useRefresh() {
  const client = useQueryClient();
  return async () => {
    await client.invalidateQueries({ queryKey: ["days"] });
    await client.invalidateQueries({ queryKey: ["plans"] });
  };
}

/** Changes a day where a number is given, and adds one otherwise. */
export function useSaveDay(id?: number) {
  return useMutation({
    mutationFn: async ({ revision, ...day }: Schemas["DayRequest"] & { revision?: number }) =>
      id === undefined
        ? body(await api.POST("/api/v1/test-days/", { body: day }))
        : body(
            await api.PATCH("/api/v1/test-days/{id}/", {
              params: { path: { id } },
              body: { ...day, revision },
            }),
          ),
    onSuccess: useRefresh(),
  });
}

/** Some fields of a day, as a remedy names them. */
export function useChangeDay({ id, revision }: Day) {
  return useMutation({
    mutationFn: async (changes: Schemas["PatchedDayRequest"]) =>
      body(
        await api.PATCH("/api/v1/test-days/{id}/", {
          params: { path: { id } },
          body: { ...changes, revision },
        }),
      ),
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
    act(async ({ id, ...changes }: { id: number } & Schemas["PatchedScheduledRunRequest"]) =>
      body(await api.PATCH("/api/v1/scheduled-runs/{id}/", { params: { path: { id } }, body: changes })),
    ),
  );
  const repeat = useMutation(
    act(async (id: number) =>
      body(await api.POST("/api/v1/scheduled-runs/{id}/repeat/", { params: { path: { id } } })),
    ),
  );
  const remove = useMutation(
    act(async (id: number) => {
      await api.DELETE("/api/v1/scheduled-runs/{id}/", { params: { path: { id } } });
    }),
  );
  const removeCheck = useMutation(
    act(async (id: number) => {
      await api.DELETE("/api/v1/checklist-items/{id}/", { params: { path: { id } } });
    }),
  );
  const add = useMutation(
    act(async (step: Schemas["ScheduledRunRequest"]) =>
      body(await api.POST("/api/v1/scheduled-runs/", { body: step })),
    ),
  );
  const reorder = useMutation(
    act(async (ids: number[]) =>
      body(
        await api.POST("/api/v1/test-days/{id}/reorder/", { params: { path: { id: day } }, body: { ids } }),
      ),
    ),
  );
  const check = useMutation({
    ...act(async ({ id, ...changes }: { id: number } & Schemas["PatchedChecklistItemRequest"]) =>
      body(await api.PATCH("/api/v1/checklist-items/{id}/", { params: { path: { id } }, body: changes })),
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
    act(async (item: Schemas["ChecklistItemRequest"]) =>
      body(await api.POST("/api/v1/checklist-items/", { body: item })),
    ),
  );
  const signAgain = useMutation(
    act(async () =>
      body(await api.POST("/api/v1/test-days/{id}/reset-checklist/", { params: { path: { id: day } } })),
    ),
  );
  const error =
    [settle, repeat, remove, removeCheck, add, reorder, check, addCheck, signAgain].find((each) => each.error)
      ?.error ?? null;
  return { settle, repeat, remove, removeCheck, add, reorder, check, addCheck, signAgain, error };
}

function ticked(day: Day, id: number, signed: boolean): Day {
  const checklist = day.checklist.map((item) =>
    item.id === id ? { ...item, signed_by: signed ? "…" : null, revision: (item.revision ?? 0) + 1 } : item,
  );
  return { ...day, checklist };
}
