import { useQuery } from "@tanstack/react-query";

import { api, body } from "../../api/client";

/** The days that may be recorded for. */
export function useDays() {
  return useQuery({
    queryKey: ["days", "list"],
    queryFn: async () => body(await api.GET("/api/v1/test-days/")).results,
  });
}
