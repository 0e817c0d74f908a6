import { useRef, useState } from "react";

import { ApiError } from "../../api/client";
import type { Layout } from "./imports";
import { goesWith, isDbc, lookAt, type Found } from "./looks";

/** Files that were chosen for an import, each looked at in turn; a DBC among them decodes their CAN logs. */
export function useLooks() {
  const [found, setFound] = useState<Found[]>([]);
  const [dbc, setDbc] = useState<File>();
  const [chosen, setChosen] = useState(new Map<number, number>());
  const next = useRef(1);

  const change = (key: number, changes: Partial<Found>) =>
    setFound((all) => all.map((each) => (each.key === key ? { ...each, ...changes } : each)));

  async function look({ key, file, layout }: Found, decoded?: File) {
    change(key, { refusal: undefined, headings: undefined, layout });
    try {
      change(key, { look: await lookAt(file, layout, decoded) });
    } catch (error) {
      if (!(error instanceof ApiError)) throw error;
      const headings = error.headings.length > 0 ? error.headings : undefined;
      change(key, { refusal: error.message, headings });
    }
  }

  async function add(files: readonly File[]) {
    const decodes = files.find(isDbc) ?? dbc;
    setDbc(decodes);
    const added = files.filter((file) => !isDbc(file)).map((file) => ({ key: next.current++, file }));
    setFound((all) => [...all, ...added]);
    const again = decodes === dbc ? [] : found.filter((each) => each.refusal && !each.headings);
    for (const each of [...again, ...added]) await look(each, decodes);
  }

  return {
    found,
    dbc,
    /** Which receiver log a CAN log goes with: what was chosen, else what its time says. */
    pairs: new Map([...goesWith(found), ...chosen].filter(([, log]) => log !== 0)),
    pair: (can: number, log: number) => setChosen((all) => new Map([...all, [can, log]])),
    add,
    name: (each: Found, layout: Layout) => void look({ ...each, layout }, dbc),
    remove: (key: number) => setFound((all) => all.filter((each) => each.key !== key)),
    clear: () => {
      setFound([]);
      setChosen(new Map());
    },
  };
}
