import { DataTable } from "../../shared/DataTable";
import { GroupName } from "./GroupName";
import type { Result } from "./queries";
import { halfWidth, signed, useQuantity } from "./quantity";

interface Props {
  result: Result;
  chosen: number;
  choose: (place: number) => void;
}

/** Every group against the first; the chosen one is shown in full below. */
export function PairTable({ result, chosen, choose }: Props) {
  const quantity = useQuantity(result);
  return (
    <section className="sheet" aria-label="All groups">
      <h2>Every group against {result.groups[0]?.name}</h2>
      <DataTable
        rows={result.pairs}
        rowKey={(pair) => pair.group}
        rowClass={(_, place) => (place === chosen ? "chosen" : "")}
        columns={[
          {
            title: "Group",
            value: (pair, place) => (
              <GroupName place={pair.group}>
                <button
                  type="button"
                  className="as-link"
                  aria-pressed={place === chosen}
                  onClick={() => choose(place)}
                >
                  {result.groups[pair.group]?.name}
                </button>
              </GroupName>
            ),
          },
          { title: "runs", number: true, value: (pair) => result.groups[pair.group]?.n },
          {
            title: `mean, ${quantity.unit}`,
            number: true,
            value: (pair) => quantity.text(result.groups[pair.group]?.mean ?? null),
          },
          {
            title: "difference",
            number: true,
            value: ({ difference }) =>
              difference
                ? `${signed(difference.value, quantity, difference)} ± ${halfWidth(difference, quantity)}`
                : "–",
          },
          { title: "Verdict", value: (pair) => pair.verdict },
          {
            title: `p corrected for ${result.pairs.length}`,
            number: true,
            value: (pair) => (pair.p_adjusted === null ? "–" : pair.p_adjusted.toFixed(3)),
          },
        ]}
      />
    </section>
  );
}
