import { Alert, AutoComplete, Button, Input, Segmented, Select } from "antd";
import { useState } from "react";
import { useNavigate, useSearchParams } from "react-router";

import { usePreferences } from "../../shared/preferences";
import { Failed, Loading } from "../../shared/States";
import { useMeasure, useMeasures } from "../../shared/useMeasure";
import { useTitle } from "../../shared/useTitle";
import { useSession } from "../accounts/session";
import { useCarNames } from "../cars/queries";
import { useLogs } from "../runs/logs";
import { firstAsk, isReady, useStudyAsk } from "./ask";
import { factsOf, KINDS, type StudyKind } from "./kinds";
import { useSaveStudy, useStudyPreview, type StudyAsk, type StudyResult } from "./queries";
import { SeriesFields } from "./SeriesFields";
import { StudyAnswer } from "./StudyAnswer";
import { StudyRuns } from "./StudyRuns";

/** A study as it is asked, with its answer below; the address holds all of it. */
export function NewStudyPage() {
  const [params] = useSearchParams();
  const cars = useCarNames();
  const { car } = usePreferences();
  if (!cars.data) return <Loading what="the cars" />;
  const kind = factsOf(params.get("kind") ?? "")?.kind ?? "charge sweep";
  const wanted = Number(params.get("car")) || car;
  const chosen = cars.data.find((each) => each.id === wanted) ?? cars.data[0];
  return <Asked first={firstAsk(kind, chosen)} />;
}

function Asked({ first }: { first: StudyAsk }) {
  const [ask, change] = useStudyAsk(first);
  const facts = factsOf(ask.kind);
  useTitle(facts?.name);
  const preview = useStudyPreview(ask, isReady(ask));
  return (
    <>
      <div className="page-head">
        <h1>{facts?.name}</h1>
        <span className="quiet">{facts?.answers}</span>
      </div>
      <section className="sheet no-print" aria-label="What the study takes">
        <Question ask={ask} change={change} />
        {ask.kind === "laps" ? (
          <DriveChoice ask={ask} change={change} />
        ) : (
          <SeriesFields ask={ask} change={change} />
        )}
        {isReady(ask) && <Save ask={ask} />}
      </section>
      {preview.error && <Failed error={preview.error} />}
      {isReady(ask) && preview.isPending && !preview.error && <Loading what="the study" />}
      {isReady(ask) && preview.data && !preview.error && (
        <>
          <StudyAnswer result={preview.data} move={(place) => change(startAt(preview.data, place))} />
          <StudyRuns
            result={preview.data}
            names={(ask.series ?? []).map((series) => series.name)}
            distance={/-0 /.test(ask.measure ?? "")}
            leaveOut={(run, reason) => change({ left_out: [...(ask.left_out ?? []), { run, reason }] })}
            takeIn={(run) => change({ left_out: (ask.left_out ?? []).filter((row) => row.run !== run) })}
          />
        </>
      )}
    </>
  );
}

/** The start line at a place of the drive. */
function startAt({ drive }: StudyResult, place: number): Partial<StudyAsk> {
  return {
    start_latitude_deg: drive?.latitude_deg[place] ?? null,
    start_longitude_deg: drive?.longitude_deg[place] ?? null,
    start_heading_deg: drive?.heading_deg[place] ?? null,
  };
}

interface Props {
  ask: StudyAsk;
  change: (changes: Partial<StudyAsk>) => void;
}

function Question({ ask, change }: Props) {
  const measures = useMeasures();
  const measure = useMeasure(ask.measure || undefined);
  const clocks = measure?.clocks ?? [];
  return (
    <div className="form-grid">
      <label>
        Study
        <Select
          aria-label="Study"

          value={ask.kind}
          options={KINDS.map(({ kind, name }) => ({ value: kind, label: name }))}
          onChange={(kind: StudyKind) => change({ kind, measure: factsOf(kind)?.measure ?? "", clock: "" })}
        />
      </label>
      {ask.kind !== "laps" && (
        <label>
          Measure
          <AutoComplete
            key={ask.kind}
            aria-label="Measure"

            defaultValue={ask.measure ?? ""}
            options={(measures ?? []).map(({ name }) => ({ value: name }))}
            onSelect={(name: string) => change({ measure: name, clock: "" })}
            onBlur={(event) => {
              const name = (event.target as HTMLInputElement).value.trim();
              if (name && name !== ask.measure) change({ measure: name, clock: "" });
            }}
          />
        </label>
      )}
      {clocks.length > 1 && (
        <div className="stack">
          Clock
          <Segmented
            aria-label="Clock"
            value={ask.clock || "rollout"}
            options={[
              { value: "rollout", label: "rollout" },
              { value: "first_movement", label: "first movement" },
            ]}
            onChange={(clock) => change({ clock: clock as "rollout" | "first_movement" })}
          />
        </div>
      )}
    </div>
  );
}

/** The log whose laps are timed; the start line is sought where the car passes most often. */
function DriveChoice({ ask, change }: Props) {
  const [name, setName] = useState("");
  const logs = useLogs(1, name);
  return (
    <div className="form-grid">
      <label>
        Log of the drive
        <Select
          aria-label="Log of the drive"

          showSearch={{ filterOption: false, onSearch: setName }}
          placeholder="Name of a log"
          value={ask.log ?? null}
          options={(logs.data?.results ?? []).map((log) => ({ value: log.id, label: log.name }))}
          onChange={(log: number) =>
            change({ log, start_latitude_deg: null, start_longitude_deg: null, start_heading_deg: null })
          }
        />
      </label>
    </div>
  );
}

function Save({ ask }: { ask: StudyAsk }) {
  const { person } = useSession();
  const save = useSaveStudy();
  const navigate = useNavigate();
  const [title, setTitle] = useState("");
  if (!person?.may_write) return null;
  return (
    <form
      className="save-line"
      onSubmit={(event) => {
        event.preventDefault();
        save.mutate({ ...ask, title }, { onSuccess: (study) => void navigate(`/studies/${study.id}`) });
      }}
    >
      <Input
        aria-label="Title"
        className="grow"
        placeholder="Title, such as: How does the Vireo hold up?"
        maxLength={160}
        value={title}
        onChange={(event) => setTitle(event.target.value)}
      />
      <Button htmlType="submit" disabled={!title.trim()} loading={save.isPending}>
        Save study
      </Button>
      {save.error && <Alert type="error" title={save.error.message} />}
    </form>
  );
}
