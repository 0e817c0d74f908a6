import { useQueryClient } from "@tanstack/react-query";
import { Alert, AutoComplete, Button, Input } from "antd";
import { useState } from "react";

import { addSetup, carNamed } from "../cars/making";
import { useCars } from "../cars/queries";

interface Props {
  /** Open from the start, where there is no car at all. */
  open: boolean;
  /** The instant that its logs begin. */
  since?: string | null;
  done: (setup: number) => void;
}

/** A setup made on the spot, with its car where that is not there yet; the rest is filled in later. */
export function NewSetup({ open: first, since, done }: Props) {
  const client = useQueryClient();
  const cars = useCars().data ?? [];
  const [opened, setOpened] = useState(false);
  const [car, setCar] = useState("");
  const [setup, setSetup] = useState("");
  const [error, setError] = useState("");
  if (!first && !opened) {
    return (
      <Button size="small" onClick={() => setOpened(true)}>
        New setup
      </Button>
    );
  }
  async function make() {
    setError("");
    try {
      const made = await carNamed(car);
      const change = made.setups.length === 0 ? "as delivered" : "other";
      const added = await addSetup(made, setup, change, since?.slice(0, 10));
      await client.invalidateQueries({ queryKey: ["cars"] });
      done(added.id);
      setOpened(false);
    } catch (problem) {
      setError(problem instanceof Error ? problem.message : String(problem));
    }
  }
  return (
    <div className="choice" role="group" aria-label="New setup">
      <AutoComplete
        aria-label="Name of the car"
        placeholder="Car"
        value={car}
        maxLength={80}
        onChange={setCar}
        options={cars.map(({ name }) => ({ value: name }))}
        className="pick"
      />
      <Input
        aria-label="Name of the setup"
        placeholder="As delivered"
        value={setup}
        maxLength={80}
        onChange={(event) => setSetup(event.target.value)}
        className="pick"
      />
      <Button disabled={!car.trim() || !setup.trim()} onClick={() => void make()}>
        Add
      </Button>
      {error && <Alert type="error" title={error} />}
    </div>
  );
}
