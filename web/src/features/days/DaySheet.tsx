import { Button } from "antd";
import { Link, useParams } from "react-router";

import { useTitle } from "../../shared/useTitle";
import { Failed, Loading } from "../../shared/States";
import { STATE_WORDS, useDay, type Day } from "./queries";
import { Expected, StepTable } from "./TimetableSheet";

/** One page for the clipboard, and the same on a phone: timetable, runs with empty boxes, cautions. */
export function DaySheet() {
  useTitle("Day sheet");
  const { id } = useParams();
  const day = useDay(Number(id));
  if (day.isPending) return <Loading what="the day sheet" />;
  if (day.error) return <Failed error={day.error} retry={() => void day.refetch()} />;
  const { data } = day;
  return (
    <article className="sheet paper">
      <div className="page-head">
        <h1>{data.question}</h1>
        <span className="quiet">
          {data.local_date}, {data.car_name} on {data.course_name}
        </span>
        <span className="push no-print row">
          <Link to={`/days/${data.id}`}>Back to the day</Link>
          <Button onClick={() => window.print()}>Print</Button>
        </span>
      </div>
      <div className="columns even">
        <div>
          <h2>Timetable</h2>
          <StepTable timetable={data.timetable} />
          {[...data.timetable.shortfalls, ...data.timetable.cautions].map((each) => (
            <p className="flag caution" key={each}>
              {each}
            </p>
          ))}
          <Expected timetable={data.timetable} />
        </div>
        <Cautions day={data} />
      </div>
      <Boxes day={data} />
    </article>
  );
}

function Cautions({ day }: { day: Day }) {
  return (
    <div>
      <h2>Before the first run</h2>
      <ul className="boxes">
        {day.checklist
          .filter((item) => item.needed)
          .map((item) => (
            <li key={item.id}>
              <span className="box">{item.signed_by ? "✓" : ""}</span> {item.text}
            </li>
          ))}
      </ul>
    </div>
  );
}

const BLANKS = ["Charge", "Battery", "Wind", "Time", "Keep or void"];

function Boxes({ day }: { day: Day }) {
  return (
    <>
      <h2>Runs, {day.measure}</h2>
      <div className="scroll">
        <table className="ruled">
          <thead>
            <tr>
              <th>No.</th>
              <th>Group</th>
              <th>Direction</th>
              {BLANKS.map((name) => (
                <th key={name}>{name}</th>
              ))}
            </tr>
          </thead>
          <tbody>
            {day.scheduled_runs.map((step, place) => (
              <tr key={step.id}>
                <td>{place + 1}</td>
                <td>{step.group_name}</td>
                <td>
                  {[step.direction, step.lane, step.wait_min ? `cool ${step.wait_min} min` : ""]
                    .filter(Boolean)
                    .join(", ")}
                </td>
                {BLANKS.map((name) => (
                  <td key={name} className="blank">
                    {name === "Keep or void" && step.state !== "open"
                      ? STATE_WORDS[step.state ?? "open"]
                      : ""}
                  </td>
                ))}
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      <p className="label">
        Closed course or private land, under local law, with a sober licensed driver, belts on and nobody near
        the strip. The driver writes nothing.
      </p>
    </>
  );
}
