import { Alert, Button, Table } from "antd";

import { ApiError } from "../api/client";
import { usePreferences } from "./preferences";
import { fieldLabel, kindOfField, withUnit, type Family } from "./units";

type Values = Record<string, unknown>;

interface Props {
  error: unknown;
  /** What was to be saved. */
  mine: unknown;
  /** Save the same again over what somebody else saved, at its revision. */
  overwrite: (revision: number) => void;
}

/** Why something was not saved; where somebody else was quicker, both versions side by side. */
export function SaveError({ error, mine, overwrite }: Props) {
  const { family } = usePreferences();
  if (!error) return null;
  const theirs = error instanceof ApiError && error.status === 409 ? error.current : null;
  if (!theirs) return <Alert type="error" title={(error as Error).message} style={{ marginBottom: 12 }} />;
  const rows = differing((mine ?? {}) as Values, theirs, family);
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
      <Button danger onClick={() => overwrite(Number(theirs.revision))} style={{ marginTop: 8 }}>
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
