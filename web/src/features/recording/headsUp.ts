import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";

import { api, body, type Schemas } from "../../api/client";

export type HeadsUp = Schemas["HeadsUp"];
export type Outcome = Schemas["Outcome"];

export function useHeadsUp(id: number) {
  return useQuery({
    queryKey: ["heads-up", id],
    queryFn: async () => body(await api.GET("/api/v1/heads-up-runs/{id}/", { params: { path: { id } } })),
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
    onSuccess: (pair) => client.setQueryData(["heads-up", id], pair),
  });
  const again = useMutation({
    mutationFn: async () => body(await api.POST("/api/v1/heads-up-runs/{id}/repeat/", { params: { path } })),
  });
  return { signal, again };
}
