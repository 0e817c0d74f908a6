import { Alert, Button } from "antd";
import { useEffect, useState } from "react";

import { together } from "./remedies";
import { useChangeDay, useDayActions, type Day } from "./queries";

/** The next thing to do and how long until then; where the day can't be met, that and why, first. */
export function NextStep({ day, mayWrite }: { day: Day; mayWrite: boolean }) {
  const now = useNow();
  const { timetable } = day;
  const next = timetable.steps.find((step) => Date.parse(step.at) > now);
  const begun =
    day.state === "under way" || !next || next.kind === "last run" || next.kind === "window closes";
  if (day.state === "finished") return <p className="answer one-line">Finished</p>;
  if (begun) return <NextRun day={day} now={now} mayWrite={mayWrite} />;
  if (!timetable.met) return <NotMet day={day} mayWrite={mayWrite} />;
  return (
    <div>
      <p className="label flush">Next, at {next.local}</p>
      <p className="answer flush" data-testid="next-step">
        {next.kind} <small>in {until(Date.parse(next.at) - now)}</small>
      </p>
      {next.note && <p className="quiet">{next.note}</p>}
    </div>
  );
}

/** Once runs are driven: which is next, and how long the window stays open. */
function NextRun({ day, now, mayWrite }: { day: Day; now: number; mayWrite: boolean }) {
  const { settle } = useDayActions(day.id);
  const place = day.scheduled_runs.findIndex((step) => step.state === "open");
  const step = day.scheduled_runs[place];
  const closes = day.timetable.steps.find((each) => each.kind === "window closes");
  const left = closes ? Date.parse(closes.at) - now : null;
  return (
    <div>
      <p className="label flush">
        {step ? `Next, run ${place + 1} of ${day.scheduled_runs.length}` : "No run is open"}
      </p>
      <p className="answer flush" data-testid="next-step">
        {step?.group_name ?? "Over"} <small>{step && (step.direction === "out" ? "out →" : "back ←")}</small>
      </p>
      {step && mayWrite && (
        <div className="row above below">
          <Button
            size="large"
            type="primary"
            onClick={() => settle.mutate({ id: step.id, revision: step.revision, state: "done" })}
          >
            Driven
          </Button>
          <Button
            size="large"
            onClick={() => settle.mutate({ id: step.id, revision: step.revision, state: "skipped" })}
          >
            Skip
          </Button>
        </div>
      )}
      {closes && left !== null && (
        <p className={left > 0 ? "quiet" : "flag caution"}>
          {left > 0
            ? `The window closes in ${until(left)}, at ${closes.local}, by the timetable.`
            : `By the timetable the window closed at ${closes.local}: read the battery temperature before the next run.`}
        </p>
      )}
    </div>
  );
}

function useNow(): number {
  const [now, setNow] = useState(() => Date.now());
  useEffect(() => {
    const timer = setInterval(() => setNow(Date.now()), 1000);
    return () => clearInterval(timer);
  }, []);
  return now;
}

/** `2 d 3 h`, `1:05:09`, `4:12`. */
function until(ms: number): string {
  const seconds = Math.floor(ms / 1000);
  const [hours, minutes] = [Math.floor(seconds / 3600), Math.floor(seconds / 60) % 60];
  if (hours >= 48) return `${Math.floor(hours / 24)} d ${hours % 24} h`;
  const two = (value: number) => String(value).padStart(2, "0");
  return hours > 0 ? `${hours}:${two(minutes)}:${two(seconds % 60)}` : `${minutes}:${two(seconds % 60)}`;
}

/** What can't be met and by how much, and each change that would make it work, one click away where it is the day's. */
function NotMet({ day, mayWrite }: { day: Day; mayWrite: boolean }) {
  const save = useChangeDay(day);
  const { shortfalls, remedies } = day.timetable;
  return (
    <div role="status">
      <p className="label flush">This day can’t be met as planned</p>
      {shortfalls.map((each, place) => (
        <p className={place === 0 ? "finding flush" : "flag void"} key={each}>
          {each}
        </p>
      ))}
      <h3>
        {remedies.length > 0 ? "Any one of these would make it work" : "No change of one or two things would"}
      </h3>
      {remedies.length === 0 && <p>Move the day.</p>}
      <ul className="remedies">
        {together(remedies).map(({ shared, each }) => (
          <li key={each[0]?.sentence}>
            {shared && `${shared}, and either`}
            {each.map(({ sentence, rest, changes }, place) => (
              <div key={sentence} className={shared ? "either" : ""}>
                {place > 0 && "or "}
                {rest}{" "}
                {changes && mayWrite && (
                  <Button
                    size="small"
                    aria-label={`Do this: ${sentence}`}
                    loading={save.isPending}
                    onClick={() => save.mutate(changes)}
                  >
                    Do this
                  </Button>
                )}
              </div>
            ))}
          </li>
        ))}
      </ul>
      {save.error && <Alert type="error" title={save.error.message} />}
    </div>
  );
}
