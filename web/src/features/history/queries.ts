import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";

import { api, body, type Schemas } from "../../api/client";

export type Action = Schemas["Action"];

/** The actions that touched a row, such as `cars.setup:12`, or parts of it. */
export function useHistory(of: string) {
  return useQuery({
    queryKey: ["history", of],
    queryFn: async () => body(await api.GET("/api/v1/actions/", { params: { query: { of } } })).results,
  });
}

export function useAction(id: number | null) {
  return useQuery({
    queryKey: ["history", id],
    queryFn: async () => body(await api.GET("/api/v1/actions/{id}/", { params: { path: { id: id ?? 0 } } })),
    enabled: id !== null,
  });
}

/** Takes an action back; whatever is on screen may be another by then. */
export function useUndo() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: async (id: number) =>
      body(await api.POST("/api/v1/actions/{id}/undo/", { params: { path: { id } } })),
    onSettled: () => client.invalidateQueries(),
  });
}
