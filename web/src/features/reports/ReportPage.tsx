import { Alert, Button, Input, Segmented, Select } from "antd";
import { useState } from "react";
import { useNavigate, useParams } from "react-router";

import { DeleteButton } from "../../shared/DeleteButton";
import { Failed, Loading } from "../../shared/States";
import { useDelete } from "../../shared/useDelete";
import { useTitle } from "../../shared/useTitle";
import { useSession } from "../accounts/session";
import { Links } from "./Links";
import { PartList } from "./PartList";
import { useChangeReport, usePublish, useReport, type Part, type Report } from "./queries";
import { Versions } from "./Versions";

const LICENSES = [
  { value: "", label: "all rights reserved" },
  { value: "CC0-1.0", label: "CC0 1.0" },
  { value: "CC-BY-4.0", label: "CC BY 4.0" },
  { value: "CC-BY-SA-4.0", label: "CC BY-SA 4.0" },
];

/** One report: what it is made of, what was published of it, and the links to that. */
export function ReportPage() {
  const report = useReport(Number(useParams().id));
  useTitle(report.data?.title);
  if (report.isPending) return <Loading what="the report" />;
  if (report.error) return <Failed error={report.error} retry={() => void report.refetch()} />;
  return <Opened key={report.data.revision} report={report.data} />;
}

type Draft = Pick<Report, "title" | "question" | "units" | "paper" | "license"> & { parts: Part[] };

function Opened({ report }: { report: Report }) {
  const { title, question, units, paper, license, id } = report;
  const first: Draft = { title, question, units, paper, license, parts: report.parts ?? [] };
  const [draft, setDraft] = useState(first);
  const change = (changes: Partial<Draft>) => setDraft({ ...draft, ...changes });
  const changed = JSON.stringify(draft) !== JSON.stringify(first);
  const { person } = useSession();
  const save = useChangeReport(id);
  const writes = person?.may_write ?? false;
  return (
    <>
      <div className="page-head">
        <h1>{title}</h1>
        <span className="push acts">
          <Button href={`/api/v1/reports/${id}/preview/`} target="_blank" disabled={changed}>
            Preview
          </Button>
          {writes && <Acts id={id} changed={changed} versions={report.versions.length} />}
        </span>
      </div>
      <div className="columns even">
        <section className="sheet" aria-label="What it is made of">
          <form
            className="report-form"
            onSubmit={(event) => {
              event.preventDefault();
              save.mutate({ ...draft, revision: report.revision ?? 1 });
            }}
          >
            <label>
              Title
              <Input
                maxLength={160}
                disabled={!writes}
                value={draft.title}
                onChange={(event) => change({ title: event.target.value })}
              />
            </label>
            <label>
              What the reader wants to know
              <Input
                maxLength={500}
                disabled={!writes}
                placeholder="such as: Was the upgrade worth its price?"
                value={draft.question}
                onChange={(event) => change({ question: event.target.value })}
              />
            </label>
            <PartList parts={draft.parts} set={(parts) => change({ parts })} writes={writes} />
            {writes && (
              <>
                <div className="row report-choices">
                  <Choice
                    name="Units"
                    value={draft.units}
                    options={{ us: "mph · ft", metric: "km/h · m" }}
                    choose={(value) => change({ units: value })}
                  />
                  <Choice
                    name="Paper"
                    value={draft.paper}
                    options={{ letter: "Letter", a4: "A4" }}
                    choose={(value) => change({ paper: value })}
                  />
                  <label>
                    License of the data
                    <Select
                      aria-label="License of the data"
                      value={draft.license}
                      options={LICENSES}
                      onChange={(value) => change({ license: value })}
                    />
                  </label>
                </div>
                <div className="row">
                  <Button
                    type="primary"
                    htmlType="submit"
                    disabled={!changed || !draft.title.trim()}
                    loading={save.isPending}
                  >
                    Save
                  </Button>
                  {changed && <span className="quiet">Not saved yet</span>}
                </div>
                {save.error && <Alert type="error" title={save.error.message} />}
              </>
            )}
          </form>
        </section>
        <div>
          <Versions versions={report.versions} />
          {report.versions.length > 0 && <Links report={report} writes={writes} />}
        </div>
      </div>
    </>
  );
}

interface ChoiceProps<Word extends string> {
  name: string;
  value: Word | undefined;
  options: Record<Word, string>;
  choose: (word: Word) => void;
}

/** One of a few words, under its name. */
function Choice<Word extends string>({ name, value, options, choose }: ChoiceProps<Word>) {
  const listed = Object.entries<string>(options) as [Word, string][];
  return (
    <div className="stack">
      {name}
      <Segmented
        aria-label={`${name} of the report`}
        value={value}
        options={listed.map(([word, label]) => ({ value: word, label }))}
        onChange={choose}
      />
    </div>
  );
}

function Acts({ id, changed, versions }: { id: number; changed: boolean; versions: number }) {
  const publish = usePublish(id);
  const remove = useDelete("/api/v1/reports/{id}/", id);
  const navigate = useNavigate();
  return (
    <>
      <Button type="primary" disabled={changed} loading={publish.isPending} onClick={() => publish.mutate()}>
        {versions ? "Publish a new version" : "Publish"}
      </Button>
      <DeleteButton
        name="this report"
        note="What was published goes with it; its links stop for good. Runs and comparisons stay."
        remove={remove}
        done={() => void navigate("/reports")}
      />
      {publish.error && <Alert type="error" title={publish.error.message} />}
    </>
  );
}
