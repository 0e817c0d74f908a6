import { Alert, Button, Input, Upload } from "antd";
import { useMemo, useState } from "react";

import { axis, Chart, palette } from "../../shared/chartStyle";
import { pairsOf } from "../../shared/pairs";
import { SaveError } from "../../shared/SaveError";
import { usePreferences } from "../../shared/preferences";
import { unitOf } from "../../shared/units";
import { useSetProfile, useSurvey, type Course } from "./queries";

/** The surveyed elevation along the course, and how to survey it. */
export function ProfileSheet({ course, mayWrite }: { course: Course; mayWrite: boolean }) {
  const stations = course.stations ?? [];
  return (
    <section className="sheet">
      <h2>Slope profile</h2>
      {stations.length > 1 ? (
        <ProfileChart stations={stations} />
      ) : (
        <p>
          Not surveyed. Drive the strip below 60 km/h (37 mph) with the GPS receiver on and upload the log, or
          enter distances and elevations.
        </p>
      )}
      {mayWrite && <ProfileInput course={course} />}
    </section>
  );
}

function ProfileChart({ stations }: { stations: NonNullable<Course["stations"]> }) {
  const { family, mode } = usePreferences();
  const p = palette(mode);
  const unit = unitOf("distance", family);
  const option = useMemo(() => {
    const data = stations.map((each) => [each.distance_m / unit.factor, each.elevation_m / unit.factor]);
    return {
      grid: { left: 58, right: 16, top: 10, bottom: 46 },
      xAxis: {
        ...axis(p, `distance, ${unit.name}`),
        axisLabel: { ...axis(p, "").axisLabel, showMaxLabel: false }, // the end of the strip is no round number
        min: "dataMin" as const,
        max: "dataMax" as const,
      },
      yAxis: { ...axis(p, `elevation, ${unit.name}`), scale: true, nameGap: 42 },
      series: [
        { type: "line", data, symbolSize: 4, lineStyle: { color: p.ink }, itemStyle: { color: p.ink } },
      ],
    };
  }, [stations, unit, p]);
  return <Chart option={option} height={220} label="Surveyed elevation along the course" />;
}

function ProfileInput({ course }: { course: Course }) {
  const survey = useSurvey(course.id);
  const set = useSetProfile(course.id);
  const [text, setText] = useState<string | null>(null);
  const [opened, setOpened] = useState(course.revision);
  const typed = (course.stations ?? []).map((each) => `${each.distance_m}, ${each.elevation_m}`).join("\n");
  const save = (revision: number | undefined, stations: ReturnType<typeof stationsOf>) =>
    set.mutate({ stations, revision }, { onSuccess: () => setText(null) });
  return (
    <>
      <div className="row">
        <Upload
          showUploadList={false}
          beforeUpload={(file) => {
            survey.mutate(file);
            return false;
          }}
        >
          <Button loading={survey.isPending}>Survey from a log</Button>
        </Upload>
        <Button
          onClick={() => {
            setOpened(course.revision);
            setText(text === null ? typed : null);
          }}
        >
          Enter by hand
        </Button>
      </div>
      {survey.error && <Alert type="error" title={survey.error.message} className="above" />}
      <SaveError save={set} done={() => setText(null)} />
      {text !== null && (
        <>
          <label htmlFor="profile">Distance and elevation in meters, one station per line</label>
          <Input.TextArea
            id="profile"
            rows={6}
            value={text}
            onChange={(event) => setText(event.target.value)}
          />
          <Button
            type="primary"
            className="above"
            loading={set.isPending}
            onClick={() => save(opened, stationsOf(text))}
          >
            Save profile
          </Button>
        </>
      )}
    </>
  );
}

function stationsOf(text: string) {
  return pairsOf(text).map(([distance_m, elevation_m]) => ({ distance_m, elevation_m }));
}
