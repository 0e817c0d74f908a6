import { Term } from "../../shared/Term";
import { DataTable } from "../../shared/DataTable";
import { GroupName } from "./GroupName";
import { IntervalChart } from "./IntervalChart";
import type { Pair, Result } from "./queries";
import { halfWidth, signed, useQuantity } from "./quantity";

/** One number with its interval, one word, one sentence; then what each group was. */
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
              Bar: 95 % interval. Shaded: differences too small for these runs to detect.
            </p>
          )}
          <GroupNumbers result={result} pair={pair} />
        </div>
      </div>
    </section>
  );
}

function Headline({ result, pair }: { result: Result; pair: Pair }) {
  const quantity = useQuantity(result);
  const { difference, unadjusted } = pair;
  const names = `${result.groups[pair.group]?.name ?? "after"} minus ${result.groups[0]?.name ?? "before"}`;
  const adjusted = pair.adjustments.length > 0;
  return (
    <div className="answer-row">
      {difference && (
        <div>
          <div className="label">
            {names}
            {adjusted && (
              <>
                , adjusted for conditions
                <Term word="adjusted difference" />
              </>
            )}
          </div>
          <div className="answer" data-testid="difference">
            {signed(difference.value, quantity, difference)} <small>{quantity.unit}</small>{" "}
            <small className="u95">± {halfWidth(difference, quantity)}</small>
            <Term word="±" />
          </div>
        </div>
      )}
      <div className="verdict" data-testid="verdict">
        {pair.verdict}
        {pair.verdict.startsWith("leans") && <Term word="leans faster" />}
      </div>
      {pair.character && <Lesser label="kind of difference" text={pair.character} />}
      {adjusted && unadjusted && (
        <Lesser
          label="unadjusted"
          text={`${signed(unadjusted.value, quantity, unadjusted)} ${quantity.unit} ± ${halfWidth(unadjusted, quantity)}`}
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

function GroupNumbers({ result, pair }: { result: Result; pair: Pair }) {
  const quantity = useQuantity(result);
  return (
    <DataTable
      rows={[0, pair.group].flatMap((place) => {
        const group = result.groups[place];
        return group ? [{ place, group }] : [];
      })}
      rowKey={({ place }) => place}
      columns={[
        {
          title: "Group",
          wrap: true,
          value: ({ place, group }) => (
            <GroupName place={place}>
              {group.name}
              {group.from_elsewhere && <span className="quiet">, entered from: {group.source}</span>}
            </GroupName>
          ),
        },
        {
          title: "runs",
          number: true,
          value: ({ group }) => (
            <>
              {group.n}
              {group.attempts > group.n && <span className="quiet"> of {group.attempts}</span>}
            </>
          ),
        },
        { title: `mean, ${quantity.unit}`, number: true, value: ({ group }) => quantity.text(group.mean) },
        { title: "sd", number: true, value: ({ group }) => quantity.text(group.sd) },
        { title: "best", number: true, value: ({ group }) => quantity.text(group.best) },
      ]}
    />
  );
}
