import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";

import { api, body, csrfToken, refusal, type Schemas } from "../../api/client";

export type Course = Schemas["Course"];

export function useCourse(id: number) {
  return useQuery({
    queryKey: ["courses", id],
    queryFn: async () => body(await api.GET("/api/courses/{id}/", { params: { path: { id } } })),
  });
}

function useRefresh() {
  const client = useQueryClient();
  return () => client.invalidateQueries({ queryKey: ["courses"] });
}

export function useAddCourse() {
  return useMutation({
    mutationFn: async (course: Schemas["CourseRequest"]) =>
      body(await api.POST("/api/courses/", { body: course })),
    onSuccess: useRefresh(),
  });
}

export function useSetProfile(id: number) {
  return useMutation({
    mutationFn: async (profile: { stations: Schemas["StationRequest"][]; revision?: number }) =>
      body(await api.PATCH("/api/courses/{id}/", { params: { path: { id } }, body: profile })),
    onSuccess: useRefresh(),
  });
}

export function useSurvey(id: number) {
  return useMutation({
    mutationFn: async (file: File) => {
      const form = new FormData();
      form.set("file", file);
      const headers = { "X-CSRFToken": csrfToken() };
      const answer = await fetch(`/api/courses/${id}/survey/`, { method: "POST", body: form, headers });
      if (!answer.ok) throw refusal(answer.status, await answer.json().catch(() => null));
    },
    onSuccess: useRefresh(),
  });
}

export function useTracks(id: number) {
  return useQuery({
    queryKey: ["courses", id, "tracks"],
    queryFn: async () => body(await api.GET("/api/courses/{id}/tracks/", { params: { path: { id } } })),
  });
}

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
        await api.GET("/api/courses/{id}/strip-check/", {
          params: { path: { id }, query: ask ?? { car: 0, target: "" } },
        }),
      ),
    enabled: ask !== null,
    retry: false,
  });
}
