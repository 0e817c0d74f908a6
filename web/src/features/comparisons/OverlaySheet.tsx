import { Select } from "antd";
import { useMemo, useState } from "react";

import { Chart, palette } from "../../shared/chartStyle";
import { usePreferences } from "../../shared/preferences";
import { CLOCK_NAMES } from "../../shared/measures";
import { groupMark } from "./groups";
import { BENEATH, linkOf, optionOf, VIEWS } from "./curves";
import type { Details, Pair, Result } from "./queries";
import { SaveChart } from "../../shared/SaveChart";

/** Mean curves of the groups, one picture at a time, with the interval of each mean. */
export function OverlaySheet({ details, result, pair }: { details: Details; result: Result; pair: Pair }) {
  const [name, setName] = useState("speed_time");
  const { family, mode } = usePreferences();
  const offered = Object.entries(VIEWS).filter(([, each]) => each.curves(details).some((c) => c?.x.length));
  const view = VIEWS[name];
  const option = useMemo(
    () => (view ? optionOf(view, details, result, family, palette(mode)) : {}),
    [view, details, result, family, mode],
  );
  const link = useMemo(() => (view ? linkOf(view, details, family) : undefined), [view, details, family]);
  const lead = details.gaps[pair.group - 1];
  if (!view || offered.length === 0) return null;
  return (
    <section className="sheet">
      <div className="sheet-head">
        <h2>Curves</h2>
        <Select
          aria-label="Which curves"
          value={name}
          onChange={setName}
          options={offered.map(([value, each]) => ({ value, label: each.title }))}
          className="pick wide"
        />
      </div>
      <Chart option={option} height={260} label={`Mean ${view.title} of every group`} link={link} />
      <Gap name={name} details={details} result={result} />
      <p className="label">
        {result.groups.map((group, place) => (
          <span key={group.name} className="key">
            <span className={groupMark(place)} />
            {group.name}
          </span>
        ))}
        {name.startsWith("gap")
          ? "ahead of the first group, both starting together"
          : "means; shaded: 95 % interval of the mean"}
        , clock: {CLOCK_NAMES[result.clock]}
      </p>
      {lead?.sentence && <p>{lead.sentence}</p>}
      <SaveChart option={() => option} name={name} />
    </section>
  );
}

/** How far, or for how long, each group is ahead of the first, on the axis of the curves above; a printed page has one picture. */
function Gap({ name, details, result }: { name: string; details: Details; result: Result }) {
  const { family, mode } = usePreferences();
  const view = VIEWS[BENEATH[name] ?? ""];
  const option = useMemo(
    () => (view ? optionOf(view, details, result, family, palette(mode)) : {}),
    [view, details, result, family, mode],
  );
  const link = useMemo(() => (view ? linkOf(view, details, family) : undefined), [view, details, family]);
  if (!view?.curves(details).some((curve) => curve?.x.length)) return null;
  return (
    <div className="no-print">
      <p className="label above">Ahead of {result.groups[0]?.name}, both starting together</p>
      <Chart option={option} height={150} label={`${view.title}, beneath`} link={link} />
    </div>
  );
}
