import { keepPreviousData, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";

import { api, body, type Schemas } from "../../api/client";
import type { Dating } from "./AskDay";

export type Log = Schemas["Log"];

const key = (id: number) => ({ params: { path: { id } } });

export function useLogs(page: number, name: string) {
  return useQuery({
    queryKey: ["logs", { page, name }],
    queryFn: async () =>
      body(await api.GET("/api/v1/logs/", { params: { query: { page, name: name || undefined } } })),
    placeholderData: keepPreviousData,
  });
}

/** How tables are read whose headings somebody named. */
export function useTableLayouts() {
  return useQuery({
    queryKey: ["table-layouts"],
    queryFn: async () => body(await api.GET("/api/v1/table-layouts/")).results,
  });
}

export function useCorrectLayout(id: number) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: async (changes: Schemas["PatchedTableLayoutRequest"]) =>
      body(await api.PATCH("/api/v1/table-layouts/{id}/", { ...key(id), body: changes })),
    onSuccess: () => client.invalidateQueries({ queryKey: ["table-layouts"] }),
  });
}

export function useLog(id: number) {
  return useQuery({
    queryKey: ["logs", id],
    queryFn: async () => body(await api.GET("/api/v1/logs/{id}/", key(id))),
  });
}

/** What deleting a log would take with it; asked once somebody is about to. */
export function useLogDeletion(id: number, asked: boolean) {
  return useQuery({
    queryKey: ["logs", id, "deletion"],
    queryFn: async () => body(await api.GET("/api/v1/logs/{id}/deletion/", key(id))).sentence,
    enabled: asked,
    staleTime: 0,
  });
}

/** Says when a log was driven, or corrects it. */
export function useDateLog(id: number) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: async (dating: Dating) =>
      body(await api.PATCH("/api/v1/logs/{id}/", { ...key(id), body: dating })),
    onSuccess: () => client.invalidateQueries(),
  });
}
