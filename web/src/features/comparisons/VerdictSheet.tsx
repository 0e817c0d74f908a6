import { BandChart } from "./BandChart";
import { IntervalChart } from "./IntervalChart";
import { MemberTable } from "./MemberTable";
import { OverlayChart } from "./OverlayChart";
import type { Result } from "./queries";
import { halfWidth, quantityUnit, signed, useQuantity } from "./quantity";

/** The verdict, its number and interval, then the reasons, then where the time went. */
export function VerdictSheet({ result }: { result: Result }) {
  return (
    <>
      <section className="sheet" aria-label="Verdict">
        <Headline result={result} />
        <p style={{ fontSize: 17 }}>{result.sentence}</p>
        {result.difference && <IntervalChart result={result} />}
        {result.difference && (
          <p className="label">
            Bar: the 95 % interval of the difference. Shaded: differences that these runs would probably not
            have shown.
          </p>
        )}
        <ArmNumbers result={result} />
      </section>
      <div className="columns even">
        {result.bands.length > 1 && <BandChart result={result} />}
        {result.overlays.length > 0 && <OverlayChart result={result} />}
      </div>
      <div className="columns even">
        <section className="sheet">
          <h2>Reasons</h2>
          <ul>
            {result.reasons.map((reason) => (
              <li key={reason}>{reason}</li>
            ))}
          </ul>
          {result.reasons.length === 0 && <p>Two runs an arm are the least that can be compared.</p>}
        </section>
        <MemberTable result={result} />
      </div>
    </>
  );
}

function Headline({ result }: { result: Result }) {
  const quantity = useQuantity(result);
  const { difference } = result;
  if (!difference) return <div className="verdict">{result.verdict}</div>;
  return (
    <div className="answer-row">
      <div>
        <div className="label">after minus before</div>
        <div className="answer" data-testid="difference">
          {signed(difference.value, quantity)} <small>{quantityUnit(quantity)}</small>{" "}
          <small className="u95">± {halfWidth(difference, quantity)}</small>
        </div>
      </div>
      <div className="verdict" data-testid="verdict">
        {result.verdict}
      </div>
      {result.character && (
        <div className="lesser">
          <div className="label">kind of difference</div>
          <div className="answer">
            <small>{result.character}</small>
          </div>
        </div>
      )}
    </div>
  );
}

function ArmNumbers({ result }: { result: Result }) {
  const quantity = useQuantity(result);
  const unit = quantityUnit(quantity);
  return (
    <div className="scroll">
      <table className="plain">
        <thead>
          <tr>
            <th>Arm</th>
            <th className="n">runs</th>
            <th className="n">mean, {unit}</th>
            <th className="n">sd, {unit}</th>
            <th className="n">best, {unit}</th>
          </tr>
        </thead>
        <tbody>
          {(["before", "after"] as const).map((arm) => (
            <tr key={arm}>
              <td>
                <span className={`arm-mark ${arm}`} />
                {arm}
              </td>
              <td className="n">{result[arm].n}</td>
              <td className="n">{quantity.text(result[arm].mean)}</td>
              <td className="n">{quantity.text(result[arm].sd)}</td>
              <td className="n">{quantity.text(result[arm].best)}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}
