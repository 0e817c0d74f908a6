import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";

import { api, body, type Schemas } from "../../api/client";

export type Receiver = Schemas["Receiver"];

/** What is known of the devices that write logs. */
export function useReceivers() {
  return useQuery({
    queryKey: ["receivers"],
    queryFn: async () =>
      body(await api.GET("/api/v1/receivers/", { params: { query: { page_size: 500 } } })).results,
  });
}

export function useSaveReceiver(id?: number) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: async (receiver: Schemas["ReceiverRequest"]) =>
      id === undefined
        ? body(await api.POST("/api/v1/receivers/", { body: receiver }))
        : body(await api.PATCH("/api/v1/receivers/{id}/", { params: { path: { id } }, body: receiver })),
    onSuccess: () => client.invalidateQueries(),
  });
}
