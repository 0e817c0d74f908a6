import { palette } from "../../shared/chartStyle";
import { usePreferences } from "../../shared/preferences";
import type { Ask } from "./ask";
import { groupColor } from "./groups";
import { quantityOf } from "./quantity";
import type { Candidates } from "./queries";

const WIDTH = 1000;
const ROW = 26;
const EDGE = 12;
const SPREAD = [0, -5, 5, -2.5, 2.5, -7.5, 7.5]; // so that equal values do not lie on one another

interface Props {
  drawn: Candidates["drawn"];
  ask: Ask;
}

/** The values of the runs that are left, a row for each group and one for those in none. */
export function StripPlot({ drawn, ask }: Props) {
  const { family, mode } = usePreferences();
  const p = palette(mode);
  const quantity = quantityOf(ask.quantity, family);
  const groupOf = new Map(ask.groups.flatMap((group, place) => (group.runs ?? []).map((id) => [id, place])));
  const timed = drawn.flatMap(({ id, value }) =>
    value === null ? [] : [{ id, value, place: groupOf.get(id) }],
  );
  if (timed.length < 2) return null;
  const values = timed.map(({ value }) => value);
  const [low, high] = [Math.min(...values), Math.max(...values)];
  const at = (value: number) => EDGE + ((value - low) / (high - low || 1)) * (WIDTH - 2 * EDGE);
  const rows = [
    ...ask.groups.map(({ name }, place) => ({ name, place })),
    { name: "in none", place: undefined },
  ];
  return (
    <figure className="strip-plot">
      {rows.map(({ name, place }) => {
        const points = timed.filter((each) => each.place === place);
        if (points.length === 0) return null;
        return (
          <div key={name} className="strip-row">
            <span className="label">{name}</span>
            <svg
              viewBox={`0 0 ${WIDTH} ${ROW}`}
              role="img"
              aria-label={`${name}: ${points.length} values from ${quantity.text(Math.min(...points.map((each) => each.value)))} to ${quantity.text(Math.max(...points.map((each) => each.value)))} ${quantity.unit}`}
            >
              {points.map(({ id, value }, n) => (
                <circle
                  key={id}
                  cx={at(value)}
                  cy={ROW / 2 + (SPREAD[n % SPREAD.length] ?? 0)}
                  r={4}
                  fill={place === undefined ? p.quiet : groupColor(place, p)}
                  fillOpacity={0.6}
                />
              ))}
            </svg>
          </div>
        );
      })}
      <div className="strip-row">
        <span />
        <span className="strip-ends label">
          <span>{`${quantity.text(low)} ${quantity.unit}`}</span>
          <span>{`${quantity.text(high)} ${quantity.unit}`}</span>
        </span>
      </div>
    </figure>
  );
}
