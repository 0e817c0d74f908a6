import { useCars } from "./queries";

/** Every set-up of every car, for choosing one. */
export function useSetUpOptions(): { value: number; label: string }[] {
  const cars = useCars();
  return (
    cars.data?.flatMap((car) =>
      car.set_ups.map((each) => ({ value: each.id, label: `${car.name}: ${each.name}` })),
    ) ?? []
  );
}
