import { Alert, Button, Table } from "antd";

import { ApiError } from "../api/client";
import { usePreferences } from "./preferences";
import { fieldLabel, kindOfField, withUnit, type Family } from "./units";

type Values = Record<string, unknown>;

/** What a mutation offers, as far as saving once more needs it. */
interface Save<T, R> {
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
  if (!theirs) return <Alert type="error" title={(error as Error).message} style={{ marginBottom: 12 }} />;
  const rows = differing((mine ?? {}) as Values, theirs, family);
  const overwrite = () =>
    mine && save.mutate({ ...mine, revision: Number(theirs.revision) }, { onSuccess: done });
  return (
    <div role="alert" style={{ marginBottom: 12 }}>
      <Alert type="warning" title={error instanceof Error ? error.message : ""} />
      <Table
        size="small"
        pagination={false}
        rowKey="name"
        dataSource={rows}
        columns={[
          { title: "Field", dataIndex: "name" },
          { title: "Yours", dataIndex: "mine" },
          { title: "Saved meanwhile", dataIndex: "theirs" },
        ]}
      />
      <Button danger onClick={overwrite} style={{ marginTop: 8 }}>
        Save mine over it
      </Button>
    </div>
  );
}

function differing(mine: Values, theirs: Values, family: Family) {
  return Object.keys(mine)
    .filter((name) => name !== "revision" && name in theirs && differ(mine[name], theirs[name]))
    .map((name) => ({
      name: fieldLabel(name),
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
