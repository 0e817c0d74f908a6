import { Button } from "antd";
import { useNavigate } from "react-router";

import type { Ask } from "./ask";
import type { Pair, Result } from "./queries";

/** What to run next, the manufacturer's claims and the cost per tenth. */
export function CostSheet({ pair, result, ask }: { pair: Pair; result: Result; ask: Ask }) {
  const navigate = useNavigate();
  const claims = [0, pair.group].flatMap((place) =>
    (result.groups[place]?.claims ?? [])
      .filter((claim) => claim.value !== null || place > 0)
      .map((claim) => ({ ...claim, name: result.groups[place]?.name })),
  );
  const { price, claimed_gain: gain, next } = pair;
  if (!claims.length && !price && !gain && !next) return null;
  const planned = {
    measure: result.measure,
    clock: result.clock === "speed" ? "rollout" : result.clock,
    runs_per_group: next?.runs ?? 5,
    can_alternate: next?.interleaved ?? true,
    days_per_group: next?.days ?? 1,
    difference_that_matters: ask.difference_that_matters ?? next?.target ?? 0.1,
    groups: result.groups.slice(0, 2).map((group) => ({ name: group.name })),
  };
  return (
    <section className="sheet" aria-label="Next runs and cost">
      {next && (
        <>
          <h2>Next runs</h2>
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
      {(claims.length > 0 || price || gain) && (
        <h2 className={next ? "further" : undefined}>Claims and cost</h2>
      )}
      {claims.map((claim) => (
        <p key={`${claim.name} ${claim.source}`}>
          {claim.sentence} <span className="quiet">({claim.source})</span>.
        </p>
      ))}
      {gain && <p>Measured gain: {gain.sentence}.</p>}
      {price && <p>{price.sentence}</p>}
    </section>
  );
}
