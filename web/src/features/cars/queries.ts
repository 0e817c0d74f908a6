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

export function useAddCar() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: async (car: Schemas["CarRequest"]) => body(await api.POST("/api/cars/", { body: car })),
    onSuccess: () => client.invalidateQueries({ queryKey: ["cars"] }),
  });
}

export function useAddSetUp() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: async (setUp: Schemas["SetUpRequest"]) =>
      body(await api.POST("/api/set-ups/", { body: setUp })),
    onSuccess: () => client.invalidateQueries({ queryKey: ["cars"] }),
  });
}
