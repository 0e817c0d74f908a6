import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";

import { api, body, type Schemas } from "../../api/client";

export type Report = Schemas["Report"];
export type Part = Schemas["PartRequest"];
export type Version = Schemas["Version"];
export type Share = Schemas["Share"];

const at = (id: number) => ({ params: { path: { id } } });
const ALL = { params: { query: { page_size: 200 } } } as const;

export function useReports() {
  return useQuery({
    queryKey: ["reports"],
    queryFn: async () => body(await api.GET("/api/v1/reports/", ALL)).results,
  });
}

export function useReport(id: number) {
  return useQuery({
    queryKey: ["reports", id],
    queryFn: async () => body(await api.GET("/api/v1/reports/{id}/", at(id))),
  });
}

function useRefresh() {
  const client = useQueryClient();
  return { onSuccess: () => client.invalidateQueries({ queryKey: ["reports"] }) };
}

export function useMakeReport() {
  return useMutation({
    mutationFn: async (report: Schemas["ReportRequest"]) =>
      body(await api.POST("/api/v1/reports/", { body: report })),
    ...useRefresh(),
  });
}

export function useChangeReport(id: number) {
  return useMutation({
    mutationFn: async (changes: Schemas["PatchedReportRequest"]) =>
      body(await api.PATCH("/api/v1/reports/{id}/", { ...at(id), body: changes })),
    ...useRefresh(),
  });
}

export function usePublish(id: number) {
  return useMutation({
    mutationFn: async () => body(await api.POST("/api/v1/reports/{id}/publish/", at(id))),
    ...useRefresh(),
  });
}

export function useMakeShare() {
  return useMutation({
    mutationFn: async (asked: Schemas["NewShareRequest"]) =>
      body(await api.POST("/api/v1/shares/", { body: asked })),
    ...useRefresh(),
  });
}

export function useRevoke() {
  return useMutation({
    mutationFn: (id: number) => api.DELETE("/api/v1/shares/{id}/", at(id)),
    ...useRefresh(),
  });
}

export function useSharing() {
  return useQuery({
    queryKey: ["sharing"],
    queryFn: async () => body(await api.GET("/api/v1/sharing/")),
  });
}

export function useSwitchSharing() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: async (allowed: boolean) => body(await api.PUT("/api/v1/sharing/", { body: { allowed } })),
    onSuccess: (found) => client.setQueryData(["sharing"], found),
  });
}
