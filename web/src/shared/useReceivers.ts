import { useQuery } from "@tanstack/react-query";

import { api, body } from "../api/client";

/** What is known of the devices that write logs. */
export function useReceivers() {
  return useQuery({
    queryKey: ["receivers"],
    queryFn: async () =>
      body(await api.GET("/api/v1/receivers/", { params: { query: { page_size: 500 } } })).results,
  });
}
