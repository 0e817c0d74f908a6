import { useQuery } from "@tanstack/react-query";

import { api, body } from "../../api/client";

export interface StripAsk {
  car: number;
  target: string;
  outside_temp_c?: number;
}

export function useStripCheck(id: number, ask: StripAsk | null) {
  return useQuery({
    queryKey: ["courses", id, "strip", ask],
    queryFn: async () =>
      body(
        await api.GET("/api/v1/courses/{id}/strip-check/", {
          params: { path: { id }, query: ask ?? { car: 0, target: "" } },
        }),
      ),
    enabled: ask !== null,
    retry: false,
  });
}
