import { AutoComplete, Select } from "antd";
import { useState } from "react";
import { Link, useParams } from "react-router";

import { useTitle } from "../../shared/useTitle";
import { usePreferences } from "../../shared/preferences";
import { Failed, Loading } from "../../shared/States";
import { fixed, withUnit } from "../../shared/units";
import { useSettled } from "../../shared/useSettled";
import { useSession } from "../accounts/session";
import { Fact } from "../cars/CarsPage";
import { useCars } from "../cars/queries";
import { ProfileSheet } from "./ProfileSheet";
import { useCourse, useStripCheck, type Course } from "./queries";
import { StripParts } from "./StripParts";
import { TrackSheet } from "./TrackSheet";

const TARGETS = ["0-60 mph", "0-100 mph", "0-100 km/h", "1/8 mile", "1/4 mile", "100-0 km/h", "60-0 mph"];

export function CoursePage() {
  const { id } = useParams();
  const course = useCourse(Number(id));
  useTitle(course.data && `${course.data.name}, ${course.data.direction}`);
  const { person } = useSession();
  if (course.isPending) return <Loading what="the course" />;
  if (course.error) return <Failed error={course.error} retry={() => void course.refetch()} />;
  return (
    <>
      <div className="page-head">
        <h1>
          {course.data.name}, {course.data.direction}
        </h1>
        <Link className="push" to={`/runs?course=${course.data.id}`}>
          Runs on it
        </Link>
      </div>
      <StripSheet course={course.data} />
      <div className="columns even">
        <ProfileSheet course={course.data} mayWrite={person?.may_write === true} />
        <div>
          <TrackSheet course={course.data.id} />
          <Facts course={course.data} />
        </div>
      </div>
    </>
  );
}

/** Whether a car's run to a target fits; the answer comes first. */
function StripSheet({ course }: { course: Course }) {
  const cars = useCars();
  const { car: chosen, family } = usePreferences();
  const [car, setCar] = useState<number | null>(chosen);
  const [target, setTarget] = useState(family === "us" ? "0-60 mph" : "0-100 km/h");
  const first = car ?? cars.data?.[0]?.id ?? null;
  const settled = useSettled(target);
  const check = useStripCheck(course.id, first === null ? null : { car: first, target: settled });
  return (
    <section className="sheet" aria-label="Strip check">
      <h2>Is it long enough?</h2>
      <div style={{ display: "flex", gap: 12, flexWrap: "wrap" }}>
        <Select
          aria-label="Car of the check"
          style={{ minWidth: 150 }}
          value={first}
          onChange={setCar}
          options={cars.data?.map((each) => ({ value: each.id, label: each.name })) ?? []}
        />
        <AutoComplete
          aria-label="Target"
          style={{ minWidth: 150 }}
          value={target}
          onChange={setTarget}
          options={TARGETS.map((value) => ({ value }))}
        />
      </div>
      {check.error && <p className="flag caution">{check.error.message}</p>}
      {check.data && <StripParts check={check.data} />}
      {first === null && <p>Add a car first: its runs, or its mass and power, tell how far it goes.</p>}
    </section>
  );
}

function Facts({ course }: { course: Course }) {
  const { family } = usePreferences();
  return (
    <section className="sheet">
      <h2>Facts</h2>
      <dl className="facts">
        <Fact name="Length" value={withUnit(course.length_m, "distance", family, 0)} />
        <Fact name="Run-off" value={withUnit(course.run_off_m, "distance", family, 0)} />
        <Fact name="Heading" value={`${course.heading_deg}°`} />
        <Fact name="Surface" value={course.surface ?? "–"} />
        <Fact name="Elevation" value={withUnit(course.elevation_m, "distance", family, 0)} />
        <Fact
          name="Mean slope"
          value={course.slope_percent == null ? "not surveyed" : `${fixed(course.slope_percent, 2)} %`}
        />
        <Fact name="Time zone" value={course.time_zone ?? "UTC"} />
        <Fact name="Permission" value={course.permission || "none written down"} />
        <Fact name="Access" value={course.access || "–"} />
      </dl>
    </section>
  );
}
