import { useCars } from "./queries";

/** Every setup of every car, for choosing one. */
export function useSetupOptions(): { value: number; label: string }[] {
  const cars = useCars();
  return (
    cars.data?.flatMap((car) =>
      car.setups.map((each) => ({ value: each.id, label: `${car.name}: ${each.name}` })),
    ) ?? []
  );
}
