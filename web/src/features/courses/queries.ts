import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";

import { api, body, csrfToken, refusal, tellOfAction, type Schemas } from "../../api/client";

export type Course = Schemas["Course"];

export function useCourses() {
  return useQuery({
    queryKey: ["courses"],
    queryFn: async () =>
      body(await api.GET("/api/v1/courses/", { params: { query: { page_size: 500 } } })).results,
  });
}

export function useCourse(id: number) {
  return useQuery({
    queryKey: ["courses", id],
    queryFn: async () => body(await api.GET("/api/v1/courses/{id}/", { params: { path: { id } } })),
  });
}

function useRefresh() {
  const client = useQueryClient();
  return () => client.invalidateQueries({ queryKey: ["courses"] });
}

/** A new course without an id, else one that is edited. */
export function useSaveCourse(id?: number) {
  return useMutation({
    mutationFn: async (course: Schemas["CourseRequest"]) =>
      id === undefined
        ? body(await api.POST("/api/v1/courses/", { body: course }))
        : body(await api.PATCH("/api/v1/courses/{id}/", { params: { path: { id } }, body: course })),
    onSuccess: useRefresh(),
  });
}

export function useSetProfile(id: number) {
  return useMutation({
    mutationFn: async (profile: { stations: Schemas["StationRequest"][]; revision?: number }) =>
      body(await api.PATCH("/api/v1/courses/{id}/", { params: { path: { id } }, body: profile })),
    onSuccess: useRefresh(),
  });
}

export function useSurvey(id: number) {
  return useMutation({
    mutationFn: async (file: File) => {
      const form = new FormData();
      form.set("file", file);
      const headers = { "X-CSRFToken": csrfToken() };
      const answer = await fetch(`/api/v1/courses/${id}/survey/`, { method: "POST", body: form, headers });
      tellOfAction(answer.headers);
      if (!answer.ok) throw refusal(answer.status, await answer.json().catch(() => null));
    },
    onSuccess: useRefresh(),
  });
}

export function useTracks(id: number) {
  return useQuery({
    queryKey: ["courses", id, "tracks"],
    queryFn: async () => body(await api.GET("/api/v1/courses/{id}/tracks/", { params: { path: { id } } })),
  });
}
