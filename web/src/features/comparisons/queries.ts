import { keepPreviousData, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";

import { api, body, type Schemas } from "../../api/client";
import type { paths } from "../../api/generated/schema";
import { isReady, type Ask } from "./ask";

export type Result = Schemas["Result"];
export type Pair = Schemas["Pair"];
export type Details = Schemas["Details"];
export type Drawn = Schemas["Drawn"];
export type Difference = Schemas["Difference"];
export type Saved = Schemas["Comparison"];

export function useComparisons() {
  return useQuery({
    queryKey: ["comparison", "all"],
    queryFn: async () =>
      body(await api.GET("/api/v1/comparisons/", { params: { query: { page_size: 200 } } })).results,
  });
}

export function useComparison(id: number) {
  return useQuery({
    queryKey: ["comparison", id],
    queryFn: async () => body(await api.GET("/api/v1/comparisons/{id}/", { params: { path: { id } } })),
  });
}

export type CandidateFilter = Omit<CandidateQuery, "measure" | "clock" | "quantity" | "car">;
type CandidateQuery = NonNullable<paths["/api/v1/comparisons/candidates/"]["get"]["parameters"]["query"]>;
export type Candidates = Schemas["Candidates"];

async function candidates(query: CandidateQuery): Promise<Candidates> {
  return body(await api.GET("/api/v1/comparisons/candidates/", { params: { query } }));
}

/** The runs that a group can be chosen from, and what filters offer. */
export function useCandidates(query: CandidateQuery) {
  return useQuery({
    queryKey: ["runs", "candidates", query],
    queryFn: () => candidates(query),
    placeholderData: keepPreviousData,
  });
}

/** The runs of two setups, for the groups before and after a change. */
export function useChange(done: (before: number[], after: number[]) => void) {
  return useMutation({
    mutationFn: async ({ query, setups }: { query: CandidateQuery; setups: [number, number] }) =>
      Promise.all(setups.map(async (setup) => (await candidates({ ...query, setup: String(setup) })).ids)),
    onSuccess: ([before = [], after = []]) => done(before, after),
  });
}

export function usePreview(ask: Ask) {
  return useQuery({
    queryKey: ["comparison", "preview", ask],
    queryFn: async () => body(await api.POST("/api/v1/comparisons/preview/", { body: ask })),
    enabled: isReady(ask),
    placeholderData: keepPreviousData,
  });
}

export function useDetails(ask: Ask) {
  return useQuery({
    queryKey: ["comparison", "details", ask],
    queryFn: async () => body(await api.POST("/api/v1/comparisons/details/", { body: ask })),
    enabled: isReady(ask),
    placeholderData: keepPreviousData,
  });
}

function useRefresh() {
  const client = useQueryClient();
  return () => client.invalidateQueries({ queryKey: ["comparison"] });
}

export function useSaveComparison() {
  return useMutation({
    mutationFn: async (asked: Schemas["ComparisonRequest"]) =>
      body(await api.POST("/api/v1/comparisons/", { body: asked })),
    onSuccess: useRefresh(),
  });
}

export function useRenameComparison(id: number) {
  return useMutation({
    mutationFn: async (changes: { title: string }) =>
      body(await api.PATCH("/api/v1/comparisons/{id}/", { params: { path: { id } }, body: changes })),
    onSuccess: useRefresh(),
  });
}

export function useKeep(id: number) {
  return useMutation({
    mutationFn: async () =>
      body(await api.POST("/api/v1/comparisons/{id}/refresh/", { params: { path: { id } } })),
    onSuccess: useRefresh(),
  });
}
