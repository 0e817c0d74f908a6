import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";

import { api, body, type Schemas } from "../../api/client";

export type Recorder = Schemas["Recorder"];
export type Strip = Schemas["Strip"];

export function useRecorders() {
  return useQuery({
    queryKey: ["recorders"],
    queryFn: async () => body(await api.GET("/api/v1/recorders/")).results,
  });
}

export function useStrip(id: number) {
  return useQuery({
    queryKey: ["strip", id],
    queryFn: async () => body(await api.GET("/api/v1/recorders/{id}/strip/", { params: { path: { id } } })),
    refetchInterval: 15_000,
    networkMode: "always",
  });
}

export function useSaveRecorder(id?: number) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: async (recorder: Schemas["RecorderRequest"]) =>
      id
        ? body(await api.PATCH("/api/v1/recorders/{id}/", { params: { path: { id } }, body: recorder }))
        : body(await api.POST("/api/v1/recorders/", { body: recorder })),
    onSuccess: async () => {
      await client.invalidateQueries({ queryKey: ["recorders"] });
      await client.invalidateQueries({ queryKey: ["strip"] });
    },
  });
}

/** Start and stop the recording, and change what it records for. */
export function useRecorderActions(id: number) {
  const client = useQueryClient();
  const path = { id };
  const settled = {
    onSuccess: (strip: Strip) => {
      client.setQueryData(["strip", id], strip);
      void client.invalidateQueries({ queryKey: ["recorders"] });
    },
  };
  const start = useMutation({
    mutationFn: async () => body(await api.POST("/api/v1/recorders/{id}/start/", { params: { path } })),
    ...settled,
  });
  const stop = useMutation({
    mutationFn: async () => body(await api.POST("/api/v1/recorders/{id}/stop/", { params: { path } })),
    ...settled,
  });
  return { start, stop };
}

export type Order = Schemas["OrderRequest"];

/** The state of the simulated car, and orders to it. */
export function useSimulation(id: number) {
  const client = useQueryClient();
  const ask = async (order: Order) =>
    body(await api.POST("/api/v1/recorders/{id}/simulation/", { params: { path: { id } }, body: order }));
  const stands = useQuery({
    queryKey: ["simulation", id],
    queryFn: () => ask({}),
    refetchInterval: ({ state }) => (state.error ? false : 2_000), // a real car answers nothing, and is not asked again
    retry: false,
  });
  const order = useMutation({
    mutationFn: ask,
    onSuccess: (answer) => client.setQueryData(["simulation", id], answer),
  });
  return { stands, order };
}
