import { Link } from "react-router";

import { DataTable } from "../../shared/DataTable";
import { Measured } from "../../shared/Measured";
import { usePreferences } from "../../shared/preferences";
import { QuantityInput } from "../../shared/QuantityInput";
import { fixed, shown, unitOf, withUnit } from "../../shared/units";
import type { HeadsUp, Outcome } from "./headsUp";

export interface Also {
  /** One more distance to say it of, m. */
  also: number | null;
  setAlso: (meters: number | null) => void;
}

/** Who was ahead, where and by how much. */
export function OutcomeSheet({ pair, outcome, also, setAlso }: { pair: HeadsUp; outcome: Outcome } & Also) {
  const { family } = usePreferences();
  const unit = unitOf("distance", family);
  const last = outcome.standings.filter((each) => each.name).at(-1);
  const ahead = (gap: number) => (gap >= 0 ? pair.left_car : pair.right_car);
  return (
    <section className="sheet" aria-label="Outcome">
      {last && (
        <>
          <div className="label">At {last.name}, each from its own first movement</div>
          <div className="verdict" data-testid="ahead">
            {last.sentence}
          </div>
        </>
      )}
      <DataTable
        rows={outcome.standings}
        rowKey={(each) => each.name}
        columns={[
          { title: "At", value: (each) => each.name || withUnit(each.distance_m, "distance", family) },
          {
            title: "Ahead",
            value: (each) => (each.shown ? ahead(each.gap_s.value) : "too close to call"),
          },
          {
            title: "by, s",
            number: true,
            value: ({ gap_s }) => <Measured value={Math.abs(gap_s.value)} u95={gap_s.u95} digits={2} />,
          },
          {
            title: `by, ${unit.name}`,
            number: true,
            value: (each) => fixed(shown(each.gap_m, "distance", family), 1),
          },
          { title: "car lengths", number: true, value: (each) => fixed(each.gap_lengths, 1) },
        ]}
      />
      <label className="row above">
        Another distance
        <QuantityInput name="Another distance" kind="distance" value={also} onChange={setAlso} />
      </label>
      <ul className="reasons above">
        {outcome.sentences.map((sentence) => (
          <li key={sentence}>{sentence}</li>
        ))}
      </ul>
      <p>
        Run sheets: <Link to={`/runs/${outcome.left_run}`}>{pair.left_car}</Link>,{" "}
        <Link to={`/runs/${outcome.right_run}`}>{pair.right_car}</Link>
      </p>
    </section>
  );
}
