import { Button, Input, Select } from "antd";

import { usePreferences } from "../../shared/preferences";
import { When } from "../../shared/When";
import { useComparisons } from "../comparisons/queries";
import { useRun, useRuns } from "../runs/queries";
import { useStudies } from "../studies/queries";
import type { Part } from "./queries";

const NAMES: Record<Part["kind"], string> = {
  text: "Text",
  comparison: "Comparison",
  study: "Study",
  slip: "Slip",
  "all cars": "Table of all cars",
};

interface Props {
  parts: Part[];
  set: (parts: Part[]) => void;
  writes: boolean;
}

/** The parts in the order of reading: moved, written and taken out one by one. */
export function PartList({ parts, set, writes }: Props) {
  const move = (from: number, to: number) => {
    const next = parts.filter((_, place) => place !== from);
    const part = parts[from];
    if (part) next.splice(to, 0, part);
    set(next);
  };
  return (
    <div role="group" aria-label="Parts">
      {parts.length === 0 && <p className="quiet">Nothing in it yet: add what it is about.</p>}
      {parts.map((part, place) => (
        <div key={`${part.kind} ${part.id} ${place}`} className="report-part">
          <div className="row">
            <strong>
              {place + 1}. {NAMES[part.kind]}
            </strong>
            <PartName part={part} />
            {writes && (
              <span className="push row">
                <Button
                  size="small"
                  aria-label={`Move part ${place + 1} up`}
                  disabled={place === 0}
                  onClick={() => move(place, place - 1)}
                >
                  ↑
                </Button>
                <Button
                  size="small"
                  aria-label={`Move part ${place + 1} down`}
                  disabled={place === parts.length - 1}
                  onClick={() => move(place, place + 1)}
                >
                  ↓
                </Button>
                <Button
                  size="small"
                  aria-label={`Take out part ${place + 1}`}
                  onClick={() => set(parts.filter((_, each) => each !== place))}
                >
                  ✕
                </Button>
              </span>
            )}
          </div>
          {part.kind === "text" && (
            <Input.TextArea
              aria-label={`Text of part ${place + 1}`}
              autoSize={{ minRows: 2 }}
              maxLength={8000}
              disabled={!writes}
              value={part.text}
              placeholder="In your own words. An empty line begins a paragraph."
              onChange={(event) =>
                set(parts.map((each, at) => (at === place ? { ...each, text: event.target.value } : each)))
              }
            />
          )}
        </div>
      ))}
      {writes && <AddPart add={(part) => set([...parts, part])} />}
    </div>
  );
}

function PartName({ part }: { part: Part }) {
  const comparisons = useComparisons();
  const studies = useStudies();
  if (part.kind === "slip" && part.id) return <SlipName id={part.id} />;
  if (part.kind !== "comparison" && part.kind !== "study") return null;
  const saved = part.kind === "comparison" ? comparisons.data : studies.data;
  if (!saved) return null;
  return <span>{saved.find(({ id }) => id === part.id)?.title ?? "was deleted: take it out"}</span>;
}

function SlipName({ id }: { id: number }) {
  const run = useRun(id);
  if (run.error) return <span>the run was deleted: take it out</span>;
  return run.data ? (
    <span>
      {run.data.car_name}, {run.data.setup_name}, <When of={run.data} />
    </span>
  ) : null;
}

/** One more part, of whatever there is. */
function AddPart({ add }: { add: (part: Part) => void }) {
  const comparisons = useComparisons().data ?? [];
  const studies = useStudies().data ?? [];
  const { car } = usePreferences();
  const latest = { kind: "standing", page_size: 50, ...(car === null ? {} : { car }) };
  const runs = useRuns(latest as never).data?.results ?? [];
  const named = (kind: "comparison" | "study", saved: readonly { id: number; title: string }[]) =>
    saved.map(({ id, title }) => ({ value: `${kind} ${id}`, label: title }));
  return (
    <Select
      aria-label="Add a part"
      className="wide-select"
      showSearch={{ optionFilterProp: "label" }}
      value={null}
      placeholder="Add a comparison, a study, a slip or a text"
      options={[
        {
          label: "Words and tables",
          options: [
            { value: "text 0", label: NAMES.text },
            { value: "all-cars 0", label: NAMES["all cars"] },
          ],
        },
        { label: "Comparisons", options: named("comparison", comparisons) },
        { label: "Studies", options: named("study", studies) },
        {
          label: "Slips of the latest runs",
          options: runs.map((run) => ({
            value: `slip ${run.id}`,
            label: `${run.car_name}, ${run.setup_name}, ${run.start_local.slice(0, 16)}`,
          })),
        },
      ]}
      onChange={(chosen: string | null) => {
        const [name = "", id = ""] = (chosen ?? "").split(" ");
        const kind = name.replace("-", " ") as Part["kind"];
        if (name) add({ kind, id: Number(id) || null, text: "" });
      }}
    />
  );
}
