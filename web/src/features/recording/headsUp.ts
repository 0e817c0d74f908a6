import { keepPreviousData, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";

import { api, body, type Schemas } from "../../api/client";

export type HeadsUp = Schemas["HeadsUp"];
export type Outcome = Schemas["Outcome"];

/** A heads-up; once it has an outcome, that at one more distance (m) too. */
export function useHeadsUp(id: number, also_m?: number) {
  return useQuery({
    queryKey: ["heads-up", id, also_m],
    queryFn: async () =>
      body(await api.GET("/api/v1/heads-up-runs/{id}/", { params: { path: { id }, query: { also_m } } })),
    placeholderData: keepPreviousData,
    refetchInterval: ({ state }) => (state.data?.outcome ? false : 2000),
  });
}

export function useArm() {
  return useMutation({
    mutationFn: async (lanes: Schemas["HeadsUpRequest"]) =>
      body(await api.POST("/api/v1/heads-up-runs/", { body: lanes })),
  });
}

export function useHeadsUpActions(id: number) {
  const client = useQueryClient();
  const path = { id };
  const signal = useMutation({
    mutationFn: async () =>
      body(await api.POST("/api/v1/heads-up-runs/{id}/start-signal/", { params: { path } })),
    onSuccess: () => client.invalidateQueries({ queryKey: ["heads-up", id] }),
  });
  const again = useMutation({
    mutationFn: async () => body(await api.POST("/api/v1/heads-up-runs/{id}/repeat/", { params: { path } })),
  });
  return { signal, again };
}
