import { Alert, Button, Radio } from "antd";
import { useState } from "react";

import { ApiError } from "../api/client";
import { DataTable } from "./DataTable";
import { usePreferences } from "./preferences";
import { fieldLabel, kindOfField, withUnit, type Family } from "./units";

type Values = Record<string, unknown>;

/** What a mutation offers, as far as saving once more needs it. */
export interface Save<T, R> {
  error: unknown;
  variables: T | undefined;
  mutate: (given: T, options: { onSuccess: (result: R) => void }) => void;
}

interface Props<T, R> {
  save: Save<T, R>;
  /** What follows once it is saved. */
  done: (result: R) => void;
  /** The fields show the reason themselves. */
  atFields?: boolean;
}

/** Why something was not saved; where somebody else was quicker, both versions side by side. */
export function SaveError<T extends object, R>({ save, done, atFields = false }: Props<T, R>) {
  const { family } = usePreferences();
  const { error, variables: mine } = save;
  if (!error || atFields) return null;
  const theirs = error instanceof ApiError && error.status === 409 ? error.current : null;
  if (!theirs) return <Alert type="error" title={(error as Error).message} className="below" />;
  return (
    <div role="alert" className="below">
      <Alert type="warning" title={error instanceof Error ? error.message : ""} />
      <Choice
        rows={differing((mine ?? {}) as Values, theirs, family)}
        save={(left) => {
          const kept = Object.entries(mine ?? {}).filter(([name]) => !left.includes(name));
          const given = { ...Object.fromEntries(kept), revision: Number(theirs.revision) } as unknown as T;
          save.mutate(given, { onSuccess: done });
        }}
      />
    </div>
  );
}

interface Differing {
  name: string;
  label: string;
  mine: string;
  theirs: string;
}

/** Both versions field by field: mine stands where nobody says otherwise. */
function Choice({ rows, save }: { rows: Differing[]; save: (left: string[]) => void }) {
  const [left, setLeft] = useState<string[]>([]);
  const version = (row: Differing, isMine: boolean) => (
    <Radio
      checked={left.includes(row.name) !== isMine}
      onChange={() => setLeft(isMine ? left.filter((name) => name !== row.name) : [...left, row.name])}
      aria-label={isMine ? `Yours: ${row.mine}` : `Theirs: ${row.theirs}`}
    >
      {isMine ? row.mine : row.theirs}
    </Radio>
  );
  return (
    <>
      <DataTable
        rows={rows}
        rowKey={(row) => row.name}
        columns={[
          { title: "Field", value: (row) => row.label },
          { title: "Yours", wrap: true, value: (row) => version(row, true) },
          { title: "Changed in the meantime", wrap: true, value: (row) => version(row, false) },
        ]}
      />
      <Button onClick={() => save(left)} className="above">
        Save what is chosen
      </Button>
    </>
  );
}

function differing(mine: Values, theirs: Values, family: Family): Differing[] {
  return Object.keys(mine)
    .filter((name) => name !== "revision" && name in theirs && differ(mine[name], theirs[name]))
    .map((name) => ({
      name,
      label: fieldLabel(name),
      mine: written(name, mine[name], family),
      theirs: written(name, theirs[name], family),
    }));
}

function differ(mine: unknown, theirs: unknown): boolean {
  const empty = (value: unknown) => value === null || value === undefined || value === "";
  return empty(mine) ? !empty(theirs) : JSON.stringify(mine) !== JSON.stringify(theirs);
}

function written(name: string, value: unknown, family: Family): string {
  const kind = kindOfField(name);
  if (kind && typeof value === "number") return withUnit(value, kind, family);
  if (value === null || value === undefined || value === "") return "empty";
  return typeof value === "object" ? JSON.stringify(value) : String(value as string | number | boolean);
}
