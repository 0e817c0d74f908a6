import { useEffect, useState } from "react";

import type { Schemas } from "../../api/client";

type Timetable = Schemas["Timetable"];

/** The next thing to do and how long until then; where the day can't be met, that and why, first. */
export function NextStep({ timetable, finished }: { timetable: Timetable; finished: boolean }) {
  const now = useNow();
  const next = timetable.steps.find((step) => Date.parse(step.at) > now);
  if (finished) return <p className="answer">Finished</p>;
  if (!timetable.met && (!next || next.kind !== "last run")) {
    return (
      <div role="status">
        <p className="answer" style={{ margin: 0 }}>
          Can’t be met
        </p>
        {timetable.shortfalls.map((each) => (
          <p className="flag void" key={each}>
            {each}
          </p>
        ))}
        <h3>What would meet it</h3>
        {timetable.remedies.length === 0 && (
          <p>No change of one or two things that was tried. Move the day.</p>
        )}
        <ul>
          {timetable.remedies.map((each) => (
            <li key={each}>{each}</li>
          ))}
        </ul>
      </div>
    );
  }
  if (!next) return <p className="answer">Over</p>;
  return (
    <div>
      <p className="label" style={{ margin: 0 }}>
        Next, at {next.local}
      </p>
      <p className="answer" style={{ margin: 0 }} data-testid="next-step">
        {next.kind} <small>in {until(Date.parse(next.at) - now)}</small>
      </p>
      {next.note && <p className="quiet">{next.note}</p>}
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
