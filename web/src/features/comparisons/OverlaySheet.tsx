import { Select } from "antd";
import { useMemo, useState } from "react";

import { Chart, palette } from "../../shared/chartStyle";
import { usePreferences } from "../../shared/preferences";
import { fixed, unitOf, withUnit } from "../../shared/units";
import { CLOCK_NAMES } from "../runs/measures";
import { armMark } from "./arms";
import { linkOf, optionOf, VIEWS } from "./curves";
import type { Details, Pair, Result } from "./queries";
import { SaveChart } from "./SaveChart";

/** Mean curves of the arms, one picture at a time, with the interval of each mean. */
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
          style={{ minWidth: 230 }}
        />
      </div>
      <Chart option={option} height={260} label={`Mean ${view.title} of every group`} link={link} />
      <p className="label">
        {result.arms.map((arm, place) => (
          <span key={arm.name} className="key">
            <span className={armMark(place)} />
            {arm.name}
          </span>
        ))}
        {name.startsWith("gap")
          ? "ahead of the first group, both leaving together"
          : "means, shaded: 95 % of the mean"}
        , clock: {CLOCK_NAMES[result.clock]}
      </p>
      <Lead details={details} result={result} place={pair.arm} />
      <SaveChart option={option} name={name} />
    </section>
  );
}

/** One sentence that says what the gap amounts to. */
function Lead({ details, result, place }: { details: Details; result: Result; place: number }) {
  const { family } = usePreferences();
  const marks = family === "us" ? [100, 60, 30] : [100, 50];
  const unit = unitOf("speed", family).factor;
  const lead = marks
    .map((mark) =>
      details.gaps[place - 1]?.leads.find((each) => Math.abs(each.speed_mps - mark * unit) < 0.01),
    )
    .find((each) => each);
  if (!lead) return null;
  const apart = Math.abs(lead.ahead_m);
  const lengths = fixed(apart / details.car_length_m, 1);
  return (
    <p>
      Leaving together, {result.arms[place]?.name} is {withUnit(apart, "distance", family)}{" "}
      {lead.ahead_m >= 0 ? "ahead" : "behind"} at {withUnit(lead.speed_mps, "speed", family, 0)}
      {apart >= details.car_length_m / 2 &&
        `: ${lengths} car lengths of ${withUnit(details.car_length_m, "distance", family)}`}
      .
    </p>
  );
}
