import { Button } from "antd";
import { useNavigate } from "react-router";

import { fixed } from "../../shared/units";
import type { Ask } from "./ask";
import type { Pair, Result } from "./queries";

/** Against claims and promises, by its price, and what to run next. */
export function WorthSheet({ pair, result, ask }: { pair: Pair; result: Result; ask: Ask }) {
  const navigate = useNavigate();
  const claims = [0, pair.arm].flatMap((place) =>
    (result.arms[place]?.claims ?? [])
      .filter((claim) => claim.value !== null || place > 0)
      .map((claim) => ({ ...claim, name: result.arms[place]?.name })),
  );
  const { price, promise, next } = pair;
  if (!claims.length && !price && !promise && !next) return null;
  const planned = {
    measure: result.measure,
    clock: result.clock === "speed" ? "rollout" : result.clock,
    runs_per_arm: next?.runs ?? 5,
    can_alternate: next?.interleaved ?? true,
    days_per_arm: next?.days ?? 1,
    smallest_difference: ask.matters ?? next?.target ?? 0.1,
    arms: result.arms.slice(0, 2).map((arm) => ({ name: arm.name })),
  };
  return (
    <section className="sheet" aria-label="Worth">
      {next && (
        <>
          <h2>To settle it</h2>
          <p>{next.sentence}</p>
          {next.runs !== null && (
            <Button
              className="no-print"
              onClick={() => void navigate(`/plans/new?start=${encodeURIComponent(JSON.stringify(planned))}`)}
            >
              Plan these runs
            </Button>
          )}
        </>
      )}
      {(claims.length > 0 || price || promise) && <h2 className={next ? "further" : undefined}>Worth</h2>}
      {claims.map((claim) => (
        <p key={`${claim.name} ${claim.source}`}>
          {claim.name} {claim.sentence} <span className="quiet">({claim.source})</span>.
        </p>
      ))}
      {promise && <p>Promised and measured: {promise.sentence}.</p>}
      {price && (
        <p>
          {fixed(price.value, 0)} {price.currency} per tenth of a second, from {fixed(price.least, 0)} to{" "}
          {price.most === null ? "without limit" : fixed(price.most, 0)}.
        </p>
      )}
    </section>
  );
}
