import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";

import { api, body, type Schemas } from "../../api/client";

const ALL = { query: { page_size: 500 } } as const;

export function useCars() {
  return useQuery({
    queryKey: ["cars"],
    queryFn: async () => body(await api.GET("/api/cars/", { params: ALL })).results,
  });
}

export function useCar(id: number) {
  const cars = useCars();
  return { ...cars, data: cars.data?.find((car) => car.id === id) };
}

export function useCourses() {
  return useQuery({
    queryKey: ["courses"],
    queryFn: async () => body(await api.GET("/api/courses/", { params: ALL })).results,
  });
}

function useRefresh() {
  const client = useQueryClient();
  return () => client.invalidateQueries({ queryKey: ["cars"] });
}

/** A new car without an id, else the car's facts mended. */
export function useSaveCar(id?: number) {
  return useMutation({
    mutationFn: async (car: Schemas["CarRequest"]) =>
      id === undefined
        ? body(await api.POST("/api/cars/", { body: car }))
        : body(await api.PATCH("/api/cars/{id}/", { params: { path: { id } }, body: car })),
    onSuccess: useRefresh(),
  });
}

export function usePack(id: number) {
  return useQuery({
    queryKey: ["cars", id, "pack"],
    queryFn: async () => body(await api.GET("/api/cars/{id}/pack/", { params: { path: { id } } })),
  });
}

export function useAddSpell() {
  return useMutation({
    mutationFn: async (spell: Schemas["PackSpellRequest"]) =>
      body(await api.POST("/api/pack-spells/", { body: spell })),
    onSuccess: useRefresh(),
  });
}

export function useAddClaim() {
  return useMutation({
    mutationFn: async (claim: Schemas["ClaimRequest"]) =>
      body(await api.POST("/api/claims/", { body: claim })),
    onSuccess: useRefresh(),
  });
}

export function useDifference(id: number, before: number, after: number) {
  return useQuery({
    queryKey: ["cars", id, "difference", before, after],
    queryFn: async () =>
      body(
        await api.GET("/api/cars/{id}/difference/", {
          params: { path: { id }, query: { before, after } },
        }),
      ),
    enabled: before !== after,
  });
}

export function useAddSetUp() {
  return useMutation({
    mutationFn: async (setUp: Schemas["SetUpRequest"]) =>
      body(await api.POST("/api/set-ups/", { body: setUp })),
    onSuccess: useRefresh(),
  });
}
