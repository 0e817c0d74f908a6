import { armMark } from "./arms";
import { IntervalChart } from "./IntervalChart";
import type { Pair, Result } from "./queries";
import { halfWidth, signed, useQuantity } from "./quantity";

/** One number with its interval, one word, one sentence; then what each arm was. */
export function VerdictSheet({ result, pair }: { result: Result; pair: Pair }) {
  return (
    <section className="sheet" aria-label="Verdict">
      <div className="columns even">
        <div>
          <Headline result={result} pair={pair} />
          <p className="verdict-sentence">{pair.sentence}</p>
        </div>
        <div>
          {pair.difference && <IntervalChart result={result} pair={pair} />}
          {pair.difference && (
            <p className="label">
              Bar: 95 % interval. Shaded: differences that these runs would probably not have shown.
            </p>
          )}
          <ArmNumbers result={result} pair={pair} />
        </div>
      </div>
    </section>
  );
}

function Headline({ result, pair }: { result: Result; pair: Pair }) {
  const quantity = useQuantity(result);
  const { difference, raw } = pair;
  const names = `${result.arms[pair.arm]?.name ?? "after"} minus ${result.arms[0]?.name ?? "before"}`;
  const adjusted = pair.adjustments.length > 0;
  return (
    <div className="answer-row">
      {difference && (
        <div>
          <div className="label">
            {names}
            {adjusted && ", at like conditions"}
          </div>
          <div className="answer" data-testid="difference">
            {signed(difference.value, quantity, difference)} <small>{quantity.unit}</small>{" "}
            <small className="u95">± {halfWidth(difference, quantity)}</small>
          </div>
        </div>
      )}
      <div className="verdict" data-testid="verdict">
        {pair.verdict}
      </div>
      {pair.character && <Lesser label="kind of difference" text={pair.character} />}
      {adjusted && raw && (
        <Lesser
          label="raw, as driven"
          text={`${signed(raw.value, quantity, raw)} ${quantity.unit} ± ${halfWidth(raw, quantity)}`}
        />
      )}
    </div>
  );
}

function Lesser({ label, text }: { label: string; text: string }) {
  return (
    <div className="lesser">
      <div className="label">{label}</div>
      <div className="answer">
        <small>{text}</small>
      </div>
    </div>
  );
}

function ArmNumbers({ result, pair }: { result: Result; pair: Pair }) {
  const quantity = useQuantity(result);
  return (
    <div className="scroll">
      <table className="plain">
        <thead>
          <tr>
            <th>Group</th>
            <th className="n">runs</th>
            <th className="n">mean, {quantity.unit}</th>
            <th className="n">sd</th>
            <th className="n">best</th>
          </tr>
        </thead>
        <tbody>
          {[0, pair.arm].map((place) => {
            const arm = result.arms[place];
            return (
              arm && (
                <tr key={place}>
                  <td>
                    <span className={armMark(place)} />
                    {arm.name}
                    {arm.typed && <span className="quiet">, typed: {arm.source}</span>}
                  </td>
                  <td className="n">
                    {arm.n}
                    {arm.attempts > arm.n && <span className="quiet"> of {arm.attempts}</span>}
                  </td>
                  <td className="n">{quantity.text(arm.mean)}</td>
                  <td className="n">{quantity.text(arm.sd)}</td>
                  <td className="n">{quantity.text(arm.best)}</td>
                </tr>
              )
            );
          })}
        </tbody>
      </table>
    </div>
  );
}
