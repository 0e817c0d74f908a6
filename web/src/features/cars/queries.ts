import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";

import { api, body, type Schemas } from "../../api/client";

const ALL = { query: { page_size: 500 } } as const;

export function useCars() {
  return useQuery({
    queryKey: ["cars"],
    queryFn: async () => body(await api.GET("/api/v1/cars/", { params: ALL })).results,
  });
}

/** Every car by name alone, for choosing one. */
export function useCarNames() {
  return useQuery({
    queryKey: ["cars", "names"],
    queryFn: async () => body(await api.GET("/api/v1/cars/names/")),
  });
}

/** The setups of one car, once they are wanted. */
export function useSetups(car: number, wanted: boolean) {
  return useQuery({
    queryKey: ["cars", car, "setups"],
    queryFn: async () =>
      body(await api.GET("/api/v1/setups/", { params: { query: { car, page_size: 500 } } })).results,
    enabled: wanted,
  });
}

export function useCar(id: number) {
  const cars = useCars();
  return { ...cars, data: cars.data?.find((car) => car.id === id) };
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
        ? body(await api.POST("/api/v1/cars/", { body: car }))
        : body(await api.PATCH("/api/v1/cars/{id}/", { params: { path: { id } }, body: car })),
    onSuccess: useRefresh(),
  });
}

export function useBattery(id: number) {
  return useQuery({
    queryKey: ["cars", id, "battery"],
    queryFn: async () =>
      body(await api.GET("/api/v1/cars/{id}/battery-model/", { params: { path: { id } } })),
  });
}

export function useIntervals(car: number) {
  return useQuery({
    queryKey: ["cars", car, "intervals"],
    queryFn: async () =>
      body(await api.GET("/api/v1/battery-intervals/", { params: { query: { car, page_size: 100 } } }))
        .results,
  });
}

export function useAddInterval() {
  return useMutation({
    mutationFn: async (interval: Schemas["BatteryIntervalRequest"]) =>
      body(await api.POST("/api/v1/battery-intervals/", { body: interval })),
    onSuccess: useRefresh(),
  });
}

/** A new claim without an id, else one that is corrected. */
export function useSaveClaim(id?: number) {
  return useMutation({
    mutationFn: async (claim: Schemas["ManufacturerClaimRequest"]) =>
      id === undefined
        ? body(await api.POST("/api/v1/manufacturer-claims/", { body: claim }))
        : body(
            await api.PATCH("/api/v1/manufacturer-claims/{id}/", { params: { path: { id } }, body: claim }),
          ),
    onSuccess: useRefresh(),
  });
}

export function useDifference(id: number, before: number, after: number) {
  return useQuery({
    queryKey: ["cars", id, "difference", before, after],
    queryFn: async () =>
      body(
        await api.GET("/api/v1/cars/{id}/setup-difference/", {
          params: { path: { id }, query: { before, after } },
        }),
      ),
    enabled: before !== after,
  });
}

/** A new setup without an id, else one that is corrected. */
export function useSaveSetup(id?: number) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: async (setup: Schemas["SetupRequest"]) =>
      id === undefined
        ? body(await api.POST("/api/v1/setups/", { body: setup }))
        : body(await api.PATCH("/api/v1/setups/{id}/", { params: { path: { id } }, body: setup })),
    onSuccess: () => client.invalidateQueries(),
  });
}

export function useMergeSetup(id: number) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: async (asked: Schemas["MergeRequest"]) =>
      body(await api.POST("/api/v1/setups/{id}/merge/", { params: { path: { id } }, body: asked })),
    onSuccess: () => client.invalidateQueries(),
  });
}

export function useSplitSetup(id: number) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: async (asked: Schemas["SplitRequest"]) =>
      body(await api.POST("/api/v1/setups/{id}/split/", { params: { path: { id } }, body: asked })),
    onSuccess: () => client.invalidateQueries(),
  });
}
