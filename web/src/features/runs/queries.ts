import { keepPreviousData, useMutation, useQueries, useQuery, useQueryClient } from "@tanstack/react-query";

import { api, body, type Schemas } from "../../api/client";
import type { paths } from "../../api/generated/schema";

export type RunRow = Schemas["RunRow"];
export type Run = Schemas["Run"];
export type RunQuery = NonNullable<paths["/api/v1/runs/"]["get"]["parameters"]["query"]>;

export function useRuns(query: RunQuery, enabled = true) {
  return useQuery({
    queryKey: ["runs", query],
    queryFn: async () => body(await api.GET("/api/v1/runs/", { params: { query } })),
    placeholderData: keepPreviousData,
    enabled,
  });
}

/** The numbers of all runs that a query finds, on every page of its list. */
export function useRunIds() {
  return useMutation({
    mutationFn: async (query: RunQuery) =>
      body(await api.GET("/api/v1/runs/ids/", { params: { query } })).ids as number[],
  });
}

export function useRun(id: number) {
  return useQuery({
    queryKey: ["run", id],
    queryFn: async () => body(await api.GET("/api/v1/runs/{id}/", { params: { path: { id } } })),
  });
}

/** The runs before and after a run, the best of its setup, and the density altitude. */
export function useBeside(id: number) {
  return useQuery({
    queryKey: ["runs", id, "beside"],
    queryFn: async () => body(await api.GET("/api/v1/runs/{id}/beside/", { params: { path: { id } } })),
  });
}

export function useCurve(id: number) {
  return useQuery({
    queryKey: ["curve", id],
    queryFn: async () => body(await api.GET("/api/v1/runs/{id}/curve/", { params: { path: { id } } })),
    staleTime: Infinity,
  });
}

/** Wheel power, which waits for the car's mass. */
export function usePower(id: number) {
  return useQuery({
    queryKey: ["run", id, "power"],
    queryFn: async () => body(await api.GET("/api/v1/runs/{id}/power/", { params: { path: { id } } })),
  });
}

/** What a METAR line says of a run's air. */
export function useWeather(id: number) {
  return useMutation({
    mutationFn: async (report: string) =>
      body(await api.GET("/api/v1/runs/{id}/weather/", { params: { path: { id }, query: { report } } })),
  });
}

export type CorrectionAsk = NonNullable<
  paths["/api/v1/runs/{id}/corrected-times/"]["get"]["parameters"]["query"]
>;

/** Times corrected as asked; nothing is fetched where nothing is asked. */
export function useCorrected(id: number, ask: CorrectionAsk) {
  return useQuery({
    queryKey: ["run", id, "corrected", ask],
    queryFn: async () =>
      body(await api.GET("/api/v1/runs/{id}/corrected-times/", { params: { path: { id }, query: ask } })),
    placeholderData: keepPreviousData,
    enabled: Object.values(ask).some(Boolean),
  });
}

/** Intervals that a person named, timed from the stored fixes. */
export function useNamed(id: number, names: string[]) {
  return useQueries({
    queries: names.map((name) => ({
      queryKey: ["run", id, "named", name],
      queryFn: async () =>
        body(await api.GET("/api/v1/runs/{id}/measure/", { params: { path: { id }, query: { name } } })),
      staleTime: Infinity,
      retry: false,
    })),
  });
}

/** What changes a run: its conditions, voiding, keeping. Each sends the revision that was read. */
export function useRunChanges(id: number) {
  const client = useQueryClient();
  const path = { id };
  const settled = {
    onSuccess(run: Run) {
      client.setQueryData(["run", id], run);
      // Power and corrected times rest on the conditions.
      void client.invalidateQueries({ queryKey: ["run", id, "power"] });
      void client.invalidateQueries({ queryKey: ["run", id, "corrected"] });
      void client.invalidateQueries({ queryKey: ["runs"] });
      void client.invalidateQueries({ queryKey: ["comparison"] });
    },
  };
  const change = useMutation({
    mutationFn: async (changes: Schemas["PatchedRunChangeRequest"]) =>
      body(await api.PATCH("/api/v1/runs/{id}/", { params: { path }, body: changes })),
    ...settled,
  });
  const voided = useMutation({
    mutationFn: async (asked: Schemas["VoidRequest"]) =>
      body(await api.POST("/api/v1/runs/{id}/void/", { params: { path }, body: asked })),
    ...settled,
  });
  const kept = useMutation({
    mutationFn: async (revision: number) =>
      body(await api.POST("/api/v1/runs/{id}/keep/", { params: { path }, body: { revision } })),
    ...settled,
  });
  return { change, voided, kept };
}

export type ManyChanges = Schemas["PatchedManyChangesRequest"];

/** What a change would do to many runs. */
export function useManyChanges(runs: number[], changes: ManyChanges) {
  return useQuery({
    queryKey: ["runs", "many", runs, changes],
    queryFn: async () =>
      body(
        await api.POST("/api/v1/runs/change-many/", {
          body: { runs: runs.map((id) => ({ id })), changes, apply: false },
        }),
      ),
    enabled: Object.keys(changes).length > 0,
    placeholderData: keepPreviousData,
    retry: false,
  });
}

/** One change of many runs, as one action. */
export function useChangeMany() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: async (asked: Schemas["ChangeManyRequest"]) =>
      body(await api.POST("/api/v1/runs/change-many/", { body: asked })),
    onSuccess: () => client.invalidateQueries(),
  });
}

/** The conditions of the run of the same car before one. */
export function usePreviousConditions(id: number) {
  return useMutation({
    mutationFn: async () => body(await api.GET("/api/v1/runs/{id}/previous/", { params: { path: { id } } })),
  });
}

/** Changes of several runs, each its own, as one action. */
export function useChangeEach() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: async (runs: Schemas["ChangeEachRequest"]["runs"]) =>
      body(await api.POST("/api/v1/runs/change-each/", { body: { runs } })),
    onSuccess: () => client.invalidateQueries(),
  });
}
