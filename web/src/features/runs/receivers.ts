import { useMutation, useQueryClient } from "@tanstack/react-query";

import { api, body, type Schemas } from "../../api/client";

export type Receiver = Schemas["Receiver"];

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
