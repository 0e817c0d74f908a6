import { keepPreviousData, useQuery } from "@tanstack/react-query";

import { api, body, type Schemas } from "../api/client";
import { useSettled } from "./useSettled";

const ASKED_ABOUT = [
  "charge_before_percent",
  "charge_after_percent",
  "battery_temp_before_c",
  "battery_temp_after_c",
  "outside_temp_c",
  "load_kg",
  "test_mass_kg",
  "tire_pressure_kpa",
  "tire_pressure_hot_kpa",
];

export type Question = Schemas["Asked"];

/** What looks like a slip among the values that were typed so far, with what is known of a run beside them. */
export function useQuestions(typed: Record<string, unknown>, run?: number): readonly Question[] {
  const values = useSettled(JSON.stringify(numbersOf(typed)));
  const asked = useQuery({
    queryKey: ["questions", run, values],
    queryFn: async () =>
      body(
        await api.POST("/api/v1/questions/", {
          body: { run: run ?? null, values: JSON.parse(values) as Record<string, number> },
        }),
      ),
    enabled: values !== "{}",
    placeholderData: keepPreviousData,
    retry: false,
  });
  return values === "{}" ? [] : (asked.data ?? []);
}

function numbersOf(typed: Record<string, unknown>): Record<string, unknown> {
  return Object.fromEntries(
    Object.entries(typed).filter(([name, value]) => ASKED_ABOUT.includes(name) && typeof value === "number"),
  );
}
