import { useQuery } from "@tanstack/react-query";

import { api, body, type Schemas } from "../api/client";

export type Measure = Schemas["Measure"];

/** The measures that every run lists, as the server names and reads them. */
export function useMeasures(): Measure[] | undefined {
  return useQuery({
    queryKey: ["measures"],
    queryFn: async () => body(await api.GET("/api/v1/measures/")),
    staleTime: Infinity,
  }).data;
}

/** A measure as the server reads its name; undefined while it is not known, or where there is no such measure. */
export function useMeasure(name: string | undefined): Measure | undefined {
  const standard = useMeasures();
  const found = standard?.find((measure) => measure.name === name);
  const named = useQuery({
    queryKey: ["measures", name],
    queryFn: async () => body(await api.GET("/api/v1/measures/", { params: { query: { name } } })),
    enabled: Boolean(name) && standard !== undefined && !found,
    staleTime: Infinity,
    retry: false,
  });
  return found ?? named.data?.[0];
}
