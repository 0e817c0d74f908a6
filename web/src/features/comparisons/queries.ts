import { keepPreviousData, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";

import { api, body, type Schemas } from "../../api/client";

export type Result = Schemas["Result"];
export type Ask = Schemas["AskRequest"];
export type Arm = "before" | "after";
export const ARMS: Arm[] = ["before", "after"];

export function useComparisons() {
  return useQuery({
    queryKey: ["comparison", "all"],
    queryFn: async () =>
      body(await api.GET("/api/comparisons/", { params: { query: { page_size: 200 } } })).results,
  });
}

export function useComparison(id: number) {
  return useQuery({
    queryKey: ["comparison", id],
    queryFn: async () => body(await api.GET("/api/comparisons/{id}/", { params: { path: { id } } })),
  });
}

export function usePreview(ask: Ask) {
  return useQuery({
    queryKey: ["comparison", "preview", ask],
    queryFn: async () => body(await api.POST("/api/comparisons/preview/", { body: ask })),
    enabled: ask.before.length > 0 && ask.after.length > 0,
    placeholderData: keepPreviousData,
  });
}

export function useSaveComparison() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: async (asked: Schemas["ComparisonRequest"]) =>
      body(await api.POST("/api/comparisons/", { body: asked })),
    onSuccess: () => client.invalidateQueries({ queryKey: ["comparison", "all"] }),
  });
}

export function useDeleteComparison() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: async (id: number) => {
      await api.DELETE("/api/comparisons/{id}/", { params: { path: { id } } });
    },
    onSuccess: () => client.invalidateQueries({ queryKey: ["comparison", "all"] }),
  });
}
