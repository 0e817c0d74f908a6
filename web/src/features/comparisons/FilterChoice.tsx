import { Button, InputNumber, Select } from "antd";

import { QuantityInput } from "../../shared/QuantityInput";
import { MOST_RUNS, withRuns, type AskedGroup } from "./ask";
import type { CandidateFilter, Candidates } from "./queries";

const WORDS = [
  ["setup", "setup"],
  ["day", "day"],
  ["drive_mode", "drive mode"],
  ["tires", "tires"],
  ["course", "course"],
  ["direction", "direction"],
  ["launch_aid", "launch aid"],
] as const;

interface Props {
  found: Candidates;
  filter: CandidateFilter;
  change: (changes: CandidateFilter) => void;
  groups: AskedGroup[];
  set: (groups: AskedGroup[]) => void;
}

/** What a run has to be, with how many runs each word would leave; all that are left go into a group together. */
export function FilterChoice({ found, filter, change, groups, set }: Props) {
  const any = Object.values(filter).some((value) => value !== undefined);
  const taken = found.ids.slice(0, MOST_RUNS);
  const end = (name: "charge_from" | "charge_to", label: string) => (
    <InputNumber
      aria-label={label}
      className="short"
      min={0}
      max={100}
      value={filter[name] ?? null}
      onChange={(value) => change({ [name]: value ?? undefined })}
    />
  );
  const warmth = (name: "battery_from" | "battery_to", label: string) => (
    <QuantityInput
      name={label}
      kind="temperature"
      value={filter[name] ?? null}
      onChange={(value) => change({ [name]: value ?? undefined })}
    />
  );
  return (
    <>
      <div className="choice">
        <span>By filter</span>
        {WORDS.filter(([name]) => found.offers[name].length > 0).map(([name, label]) => (
          <Select
            key={name}
            allowClear
            showSearch={{ optionFilterProp: "label" }}
            aria-label={`Only ${label}`}
            placeholder={label}
            className="pick"
            popupMatchSelectWidth={false}
            value={filter[name] ?? null}
            options={found.offers[name].map((offer) => ({
              value: offer.word,
              label: `${offer.name} (${offer.count})`,
            }))}
            onChange={(value?: string) => change({ [name]: value ?? undefined })}
          />
        ))}
        <span>
          charge {end("charge_from", "Charge from")} to {end("charge_to", "Charge to")} %
        </span>
        <span className="band">
          battery {warmth("battery_from", "Battery from")} to {warmth("battery_to", "Battery to")}
        </span>
      </div>
      <div className="choice">
        <span>
          {found.ids.length} of {found.of} runs
          {found.ids.length > MOST_RUNS && `; a group takes the latest ${MOST_RUNS}`}
        </span>
        {groups.map((group, place) =>
          group.typed_values?.length ? null : (
            <Button
              key={place}
              disabled={!any || !taken.length}
              onClick={() => set(withRuns(groups, taken, place))}
            >
              {`Add ${any ? `${taken.length} ` : ""}to ${group.name}`}
            </Button>
          ),
        )}
      </div>
    </>
  );
}
