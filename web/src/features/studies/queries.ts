import { keepPreviousData, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";

import { api, body, type Schemas } from "../../api/client";

export type StudyAsk = Schemas["StudyAskRequest"];
export type Study = Schemas["Study"];
export type StudyResult = Schemas["StudyResult"];
export type StudyChart = Schemas["StudyChart"];
export type StudyDrive = Schemas["StudyDrive"];
export type StudyTable = Schemas["StudyTable"];
export type Axis = Schemas["StudyAxis"];
export type AllCarsRow = Schemas["AllCarsRow"];
export type TableView = Schemas["TableView"];
export type OwnMeasure = Schemas["OwnMeasure"];
export type OwnValue = Schemas["OwnValue"];

const at = (id: number) => ({ params: { path: { id } } });
const ALL = { params: { query: { page_size: 500 } } } as const;

export function useStudies() {
  return useQuery({
    queryKey: ["studies"],
    queryFn: async () => body(await api.GET("/api/v1/studies/", ALL)).results,
  });
}

/** A study; none while there is no number. */
export function useStudy(id: number | undefined) {
  return useQuery({
    queryKey: ["studies", id],
    queryFn: async () => body(await api.GET("/api/v1/studies/{id}/", at(id ?? 0))),
    enabled: id !== undefined,
  });
}

export function useStudyPreview(ask: StudyAsk, enabled: boolean) {
  return useQuery({
    queryKey: ["studies", "preview", ask],
    queryFn: async () => body(await api.POST("/api/v1/studies/preview/", { body: ask })),
    enabled,
    placeholderData: keepPreviousData,
  });
}

function useRefresh(...key: string[]) {
  const client = useQueryClient();
  return () => client.invalidateQueries({ queryKey: key });
}

export function useSaveStudy() {
  return useMutation({
    mutationFn: async (study: Schemas["StudyRequest"]) =>
      body(await api.POST("/api/v1/studies/", { body: study })),
    onSuccess: useRefresh("studies"),
  });
}

export function useChangeStudy(id: number) {
  return useMutation({
    mutationFn: async (changes: Schemas["PatchedStudyChangeRequest"]) =>
      body(await api.PATCH("/api/v1/studies/{id}/", { ...at(id), body: changes })),
    onSuccess: useRefresh("studies"),
  });
}

export function useRenameStudy(id: number, revision: number) {
  return useMutation({
    mutationFn: async ({ title }: { title: string }) =>
      body(await api.PATCH("/api/v1/studies/{id}/", { ...at(id), body: { title, revision } })),
    onSuccess: useRefresh("studies"),
  });
}

export function useKeepStudy(id: number) {
  return useMutation({
    mutationFn: async () => body(await api.POST("/api/v1/studies/{id}/refresh/", at(id))),
    onSuccess: useRefresh("studies"),
  });
}

/** Every setup of every car, with measures named as `measure|clock`. */
export function useAllCars(measures: readonly string[]) {
  return useQuery({
    queryKey: ["all-cars", measures],
    queryFn: async () =>
      body(await api.GET("/api/v1/all-cars/", { params: { query: { measures: measures.join(",") } } })),
    placeholderData: keepPreviousData,
  });
}

export function useTableViews() {
  return useQuery({
    queryKey: ["table-views"],
    queryFn: async () => body(await api.GET("/api/v1/table-views/", ALL)).results,
  });
}

export function useSaveTableView() {
  return useMutation({
    mutationFn: async (view: Schemas["TableViewRequest"]) =>
      body(await api.POST("/api/v1/table-views/", { body: view })),
    onSuccess: useRefresh("table-views"),
  });
}

export function useOwnMeasures() {
  return useQuery({
    queryKey: ["own-measures"],
    queryFn: async () => body(await api.GET("/api/v1/own-measures/", ALL)).results,
  });
}

export function useOwnValues() {
  return useQuery({
    queryKey: ["own-values"],
    queryFn: async () => body(await api.GET("/api/v1/own-values/", ALL)).results,
  });
}

export function useSaveOwnMeasure() {
  return useMutation({
    mutationFn: async (measure: Schemas["OwnMeasureRequest"]) =>
      body(await api.POST("/api/v1/own-measures/", { body: measure })),
    onSuccess: useRefresh("own-measures"),
  });
}

export function useSaveOwnValue() {
  return useMutation({
    mutationFn: async (value: Schemas["OwnValueRequest"]) =>
      body(await api.POST("/api/v1/own-values/", { body: value })),
    onSuccess: useRefresh("own-values"),
  });
}
