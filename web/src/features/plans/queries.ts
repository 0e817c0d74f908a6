import { keepPreviousData, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";

import { api, body, type Schemas } from "../../api/client";

export type Advice = Schemas["Advice"];
export type Plan = Schemas["Plan"];
export type PlanAsk = Schemas["PlanAskRequest"];

export function usePlans(car: number | null) {
  return useQuery({
    queryKey: ["plans", "all", car],
    queryFn: async () =>
      body(await api.GET("/api/v1/plans/", { params: { query: { page_size: 200, car: car ?? undefined } } }))
        .results,
  });
}

export function usePlan(id: number) {
  return useQuery({
    queryKey: ["plans", id],
    queryFn: async () => body(await api.GET("/api/v1/plans/{id}/", { params: { path: { id } } })),
  });
}

/** What a plan says about itself before it is saved. */
export function useAdvice(ask: PlanAsk | null) {
  return useQuery({
    queryKey: ["plans", "advice", ask],
    queryFn: async () => body(await api.POST("/api/v1/plans/advice/", { body: ask as PlanAsk })),
    enabled: ask !== null,
    placeholderData: keepPreviousData,
    retry: false,
  });
}

export function useReminders(car: number) {
  return useQuery({
    queryKey: ["plans", "reminders", car],
    queryFn: async () => body(await api.GET("/api/v1/plans/reminders/", { params: { query: { car } } })),
  });
}

/** A new plan without an id, else the plan changed; days that are laid out stay as they are. */
export function useSavePlan(id?: number) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: async (plan: PlanAsk & { revision?: number }) =>
      id === undefined
        ? body(await api.POST("/api/v1/plans/", { body: plan }))
        : body(await api.PATCH("/api/v1/plans/{id}/", { params: { path: { id } }, body: plan })),
    onSuccess: () => client.invalidateQueries({ queryKey: ["plans"] }),
  });
}
