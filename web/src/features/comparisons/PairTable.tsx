import { armMark } from "./arms";
import type { Result } from "./queries";
import { halfWidth, signed, useQuantity } from "./quantity";

interface Props {
  result: Result;
  chosen: number;
  choose: (place: number) => void;
}

/** Every arm against the first; the chosen one is told in full below. */
export function PairTable({ result, chosen, choose }: Props) {
  const quantity = useQuantity(result);
  return (
    <section className="sheet scroll" aria-label="All groups">
      <h2>Every group against {result.arms[0]?.name}</h2>
      <table className="plain">
        <thead>
          <tr>
            <th>Group</th>
            <th className="n">runs</th>
            <th className="n">mean, {quantity.unit}</th>
            <th className="n">difference</th>
            <th>Verdict</th>
            <th className="n">p, corrected for {result.pairs.length}</th>
          </tr>
        </thead>
        <tbody>
          {result.pairs.map((pair, place) => (
            <tr key={pair.arm} className={place === chosen ? "chosen" : undefined}>
              <td>
                <span className={armMark(pair.arm)} />
                <button
                  type="button"
                  className="as-link"
                  aria-pressed={place === chosen}
                  onClick={() => choose(place)}
                >
                  {result.arms[pair.arm]?.name}
                </button>
              </td>
              <td className="n">{result.arms[pair.arm]?.n}</td>
              <td className="n">{quantity.text(result.arms[pair.arm]?.mean ?? null)}</td>
              <td className="n">
                {pair.difference
                  ? `${signed(pair.difference.value, quantity, pair.difference)} ± ${halfWidth(pair.difference, quantity)}`
                  : "–"}
              </td>
              <td>{pair.verdict}</td>
              <td className="n">{pair.p_adjusted === null ? "–" : pair.p_adjusted.toFixed(3)}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}
