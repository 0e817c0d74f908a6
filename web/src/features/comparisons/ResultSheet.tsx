import { useState } from "react";

import { PointerProvider } from "../../shared/pointer";
import type { Ask } from "./ask";
import { ConditionDifferencesSheet } from "./ConditionDifferencesSheet";
import { BandChart } from "./BandChart";
import { CurveGrid } from "./CurveGrid";
import { MemberTable } from "./MemberTable";
import { OtherMeasures } from "./OtherMeasures";
import { OverlaySheet } from "./OverlaySheet";
import { Projections } from "./Projections";
import { PairTable } from "./PairTable";
import { useDetails, type Pair, type Result } from "./queries";
import { VerdictSheet } from "./VerdictSheet";
import { CostSheet } from "./CostSheet";

interface Props {
  result: Result;
  ask: Ask;
  /** Present while the question can still be changed. */
  change?: (changes: Partial<Ask>) => void;
}

/** The whole answer on one sheet: the verdict, where the time went, differences in conditions, reasons, next runs and cost, runs. */
export function ResultSheet({ result, ask, change }: Props) {
  const [chosen, setChosen] = useState(0);
  const details = useDetails(ask);
  const pair = result.pairs[Math.min(chosen, result.pairs.length - 1)];
  if (!pair) return null;
  const before = result.groups[0]?.name ?? "before";
  const after = result.groups[pair.group]?.name ?? "after";
  return (
    <PointerProvider>
      {result.pairs.length > 1 && (
        <PairTable result={result} chosen={result.pairs.indexOf(pair)} choose={setChosen} />
      )}
      <VerdictSheet result={result} pair={pair} />
      <div className="columns even">
        {pair.bands.length > 1 && <BandChart pair={pair} adjusted={pair.adjustments.length > 0} />}
        {details.data && <OverlaySheet details={details.data} result={result} pair={pair} />}
      </div>
      {details.data && <CurveGrid details={details.data} result={result} />}
      <ConditionDifferencesSheet pair={pair} names={[before, after]} ask={ask} change={change} />
      <div className="columns even">
        <div>
          <Reasons pair={pair} />
          {details.data && <Projections details={details.data} result={result} />}
        </div>
        <div>
          <CostSheet pair={pair} result={result} ask={ask} />
          {details.data && <OtherMeasures details={details.data} />}
        </div>
      </div>
      <MemberTable result={result} />
    </PointerProvider>
  );
}

function Reasons({ pair }: { pair: Pair }) {
  return (
    <section className="sheet" aria-label="Reasons">
      <h2>Reasons</h2>
      <ul className="reasons">
        {pair.reasons.map((reason) => (
          <li key={reason}>{reason}</li>
        ))}
      </ul>
      {pair.reasons.length === 0 && <p>Two runs per group are the least that can be compared.</p>}
    </section>
  );
}
