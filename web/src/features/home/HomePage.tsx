import { Button } from "antd";
import { useState } from "react";
import { Link, useNavigate } from "react-router";

import { Failed, Loading, Nothing } from "../../shared/States";
import { useTitle } from "../../shared/useTitle";
import { KeptVerdict } from "../comparisons/KeptVerdict";
import { TourOffer } from "../help/TourOffer";
import { countdown } from "./countdown";
import { useHome, type Home } from "./queries";

/** What comes next, what is open, what was found, and what lacks. */
export function HomePage() {
  useTitle("Home");
  const home = useHome();
  if (home.isPending) return <Loading what="what comes next" />;
  if (home.error) return <Failed error={home.error} retry={() => void home.refetch()} />;
  if (home.data.runs === 0 && home.data.days.length === 0) return <Begin />;
  return (
    <>
      <h1 className="visually-hidden">Home</h1>
      {home.data.days.map((day) => (
        <NextDay key={day.id} day={day} />
      ))}
      <Lacking home={home.data} />
      <Verdicts home={home.data} />
      <Tests home={home.data} />
      <TourOffer />
    </>
  );
}

/** Three ways to begin, the shortest first. */
function Begin() {
  const navigate = useNavigate();
  return (
    <>
      <div className="page-head">
        <h1>Did the car become faster?</h1>
      </div>
      <div className="columns thirds">
        <Nothing title="Two folders of logs">
          <p>
            Drop the logs from before and after a change. The verdict appears as soon as both have two runs.
          </p>
          <Button type="primary" onClick={() => void navigate("/compare/quick")}>
            Quick compare
          </Button>
        </Nothing>
        <Nothing title="No logs yet">
          <p>
            Record with the simulated car: it drives, and every run is timed as with a receiver on the
            windshield.
          </p>
          <Button onClick={() => void navigate("/record")}>Record</Button>
        </Nothing>
        <Nothing title="Just looking">
          <p>
            A made-up season of five cars is one command away: stop Coombe and enter{" "}
            <code>./coombe demo</code>.
          </p>
        </Nothing>
      </div>
      <TourOffer />
    </>
  );
}

function NextDay({ day }: { day: Home["days"][number] }) {
  const navigate = useNavigate();
  const [now] = useState(() => new Date());
  const underWay = day.state === "under way";
  return (
    <section className="sheet" aria-label="Next test day">
      <div className="answer-row">
        <div>
          <div className="label">{underWay ? "test day under way" : `next test day, ${day.local_date}`}</div>
          <div className="answer">
            {underWay ? (
              <>
                {day.done} <small>of {day.runs} runs</small>
              </>
            ) : (
              countdown(new Date(day.first_run_at), now)
            )}
          </div>
        </div>
        <div className="grow">
          <p className="finding lesser">{day.question}</p>
          <p className="quiet">
            {day.car_name}, {day.course_name}, first run {day.local_time}
          </p>
        </div>
        <Button type="primary" size="large" onClick={() => void navigate(`/days/${day.id}`)}>
          {underWay ? "Go on" : "Open the day"}
        </Button>
      </div>
    </section>
  );
}

/** What would be missed later, each with the page where it is seen to. */
function Lacking({ home }: { home: Home }) {
  return (
    <>
      {home.trouble.map((each) => (
        <p className="flag void" key={each.sentence}>
          {each.sentence} {each.path && <Link to={each.path}>See to it</Link>}
        </p>
      ))}
      {home.reminders.map((each) => (
        <p className="flag caution" key={each.plan}>
          Before you change the car: <Link to={`/plans/${each.plan}`}>{each.question}</Link> has no baseline.{" "}
          {each.sentence}
        </p>
      ))}
      {home.without_conditions > 0 && (
        <p className="flag caution">
          {home.without_conditions === 1
            ? "1 run lacks its charge or battery temperature. "
            : `${home.without_conditions} runs lack their charge or battery temperature. `}
          <Link to="/runs/fill">{home.without_conditions === 1 ? "Fill it in" : "Fill them in"}</Link>
        </p>
      )}
    </>
  );
}

function Verdicts({ home }: { home: Home }) {
  return (
    <section className="sheet" aria-label="Latest verdicts">
      <div className="row">
        <h2>Latest verdicts</h2>
        <span className="push">
          <Link to="/compare/quick">Quick compare</Link>
        </span>
      </div>
      {home.verdicts.length === 0 ? (
        <p>
          No comparison is saved yet. <Link to="/compare/new">Compare groups</Link> of your runs.
        </p>
      ) : (
        <ul className="home-list">
          {home.verdicts.map((row) => (
            <li key={row.id}>
              <Link to={`/compare/${row.id}`}>{row.title}</Link>
              <span className="quiet">{row.measure}</span>
              <KeptVerdict row={row} />
              <span className="quiet">{row.created_at.slice(0, 10)}</span>
            </li>
          ))}
        </ul>
      )}
    </section>
  );
}

function Tests({ home }: { home: Home }) {
  return (
    <section className="sheet" aria-label="Open tests">
      <h2>Open tests</h2>
      {home.tests.length === 0 ? (
        <p>
          Nothing is planned. <Link to="/plans/new">Plan a test</Link>.
        </p>
      ) : (
        <ul className="home-list">
          {home.tests.map((row) => (
            <li key={row.id}>
              <Link to={`/plans/${row.id}`}>{row.question}</Link>
              <span className="quiet">{row.measure}</span>
              <span>{row.needs}</span>
              <span className="quiet">{row.car_name}</span>
            </li>
          ))}
        </ul>
      )}
    </section>
  );
}
