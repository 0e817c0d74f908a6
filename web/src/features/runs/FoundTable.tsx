import { Button, Select } from "antd";
import { Link } from "react-router";

import { DataTable } from "../../shared/DataTable";
import { local } from "../../shared/dates";
import { runsIn, type Found } from "./looks";
import { NameColumns } from "./NameColumns";
import type { useLooks } from "./useLooks";

/** What was found in each file, and what is odd about it, before anything is stored. */
export function FoundTable({ looks, zone }: { looks: ReturnType<typeof useLooks>; zone: string }) {
  const { found, pairs, remove } = looks;
  return (
    <DataTable
      label="What was found"
      rows={found}
      rowKey={(each) => each.key}
      rowClass={(each) => (each.refusal ? "void-row" : "")}
      columns={[
        { title: "File", value: (each) => <strong>{each.file.name}</strong> },
        { title: `When, ${zone}`, value: ({ look }) => when(look, zone) },
        { title: "Lasts, min", number: true, value: ({ look }) => look && (look.duration_s / 60).toFixed(1) },
        {
          title: "Found",
          wrap: true,
          value: (each) => <WhatIsIn each={each} looks={looks} paired={pairs.get(each.key)} />,
        },
        {
          title: "Odd",
          wrap: true,
          value: (each) => (
            <div className="odd">
              <Odd each={each} looks={looks} />
            </div>
          ),
        },
        {
          title: " ",
          value: (each) => (
            <Button size="small" aria-label={`Leave out ${each.file.name}`} onClick={() => remove(each.key)}>
              Leave out
            </Button>
          ),
        },
      ]}
    />
  );
}

function when(look: Found["look"], zone: string): string {
  if (!look?.start_utc || !look.date_known) return "–";
  return local(look.start_utc, zone);
}

function WhatIsIn(props: { each: Found; looks: ReturnType<typeof useLooks>; paired?: number }) {
  const { each, looks, paired } = props;
  if (each.refusal) return "nothing";
  if (!each.look) return <span role="status">looking …</span>;
  if (each.look.kind === "receiver log") return runsIn(each.look) || "no run";
  const receivers = looks.found.filter((one) => one.look?.kind === "receiver log");
  return (
    <span className="row">
      CAN log of
      <Select
        size="small"
        aria-label={`Log that ${each.file.name} goes with`}
        value={paired ?? 0}
        onChange={(log) => looks.pair(each.key, log)}
        popupMatchSelectWidth={false}
        options={[
          { value: 0, label: "no log: leave it out" },
          ...receivers.map((one) => ({ value: one.key, label: one.file.name })),
        ]}
      />
    </span>
  );
}

function Odd({ each, looks }: { each: Found; looks: ReturnType<typeof useLooks> }) {
  if (each.refusal) {
    return (
      <>
        {each.refusal}
        {each.headings && (
          <NameColumns
            headings={each.headings}
            submit="Read with these columns"
            done={(layout) => looks.name(each, layout)}
          />
        )}
      </>
    );
  }
  return (
    <>
      {each.look?.already && (
        <span>
          <Link to={`/logs/${each.look.already}`}>Imported already</Link>: nothing is stored twice.{" "}
        </span>
      )}
      {each.look?.odd.join(" ")}
    </>
  );
}
