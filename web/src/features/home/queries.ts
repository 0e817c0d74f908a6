import { useQuery } from "@tanstack/react-query";

import { api, body, type Schemas } from "../../api/client";

export type Home = Schemas["Home"];

/** What a person wants to know on opening Coombe. */
export function useHome() {
  return useQuery({
    queryKey: ["home"],
    queryFn: async () => body(await api.GET("/api/v1/home/")),
    staleTime: 0, // it is about what was done a moment ago
  });
}
