import { Button } from "antd";
import { useEffect } from "react";
import { useLocation, useNavigate } from "react-router";

import { DataTable } from "../../shared/DataTable";
import { GLOSSARY } from "../../shared/glossary";
import { usePreferences } from "../../shared/preferences";
import { KeyList } from "../../shared/ShortcutList";
import { useTitle } from "../../shared/useTitle";
import { STEPS } from "./steps";

const FORMATS: readonly [string, string][] = [
  ["NMEA", "RMC or VTG with GGA, any talker; .nmea, .txt, .log"],
  ["UBX", "NAV-PVT messages"],
  ["GPX 1.1", "tracks with time; speed from extensions, else from the positions"],
  ["Positioning JSON", "one TPV object a line"],
  ["CSV", "any headings: unknown ones are named once. Commas, semicolons or tabs, decimal commas too"],
  ["Parquet", "columns named as in CSV"],
  [
    "candump, ASC, BLF",
    "CAN logs, decoded with Coombe's DBC or your own; they come along with a receiver log",
  ],
  ["METAR", "a weather report, pasted where conditions are entered"],
];

const SECTIONS = [
  ["tour", "Tour"],
  ["keys", "Keys"],
  ["glossary", "Glossary"],
  ["formats", "Formats"],
  ["method", "Method"],
] as const;

/** What to look up: the tour again, keys, words, formats, and how a number comes about. */
export function HelpPage() {
  useTitle("Help");
  const { setTour } = usePreferences();
  const navigate = useNavigate();
  const { hash } = useLocation();
  useEffect(() => document.getElementById(hash.slice(1))?.scrollIntoView(), [hash]);
  return (
    <>
      <div className="page-head">
        <h1>Help</h1>
        <nav className="row" aria-label="On this page">
          {SECTIONS.map(([id, name]) => (
            <a key={id} href={`#${id}`}>
              {name}
            </a>
          ))}
        </nav>
      </div>
      <section className="sheet" id="tour" aria-label="Tour of five steps">
        <h2>Tour</h2>
        <ol>
          {STEPS.map((step) => (
            <li key={step.to}>
              <strong>{step.title}.</strong> {step.text}
            </li>
          ))}
        </ol>
        <Button
          onClick={() => {
            setTour(0);
            void navigate(STEPS[0]?.to ?? "/");
          }}
        >
          Take the tour
        </Button>
      </section>
      <section className="sheet" id="keys" aria-label="Keys">
        <h2>Keys</h2>
        <KeyList />
      </section>
      <section className="sheet" id="glossary" aria-label="Glossary">
        <h2>Glossary</h2>
        <dl className="glossary">
          {GLOSSARY.map(([word, meaning]) => (
            <div key={word}>
              <dt>{word}</dt>
              <dd>{meaning}</dd>
            </div>
          ))}
        </dl>
      </section>
      <section className="sheet" id="formats" aria-label="Formats">
        <h2>Formats</h2>
        <p>A log is known by what is in it, never by its name. Up to 200 MB each.</p>
        <DataTable
          rows={FORMATS}
          rowKey={([name]) => name}
          columns={[
            { title: "Format", value: ([name]) => name },
            { title: "What is read", value: ([, what]) => what, wrap: true },
          ]}
        />
      </section>
      <section className="sheet" id="method" aria-label="Method">
        <h2>Method in short</h2>
        <ul>
          <li>
            <strong>A time.</strong> A smooth motion is fitted to the receiver's speeds: torque that rises at
            the launch, then a curve as stiff as the noise asks for. Times are read off that motion, not
            between two fixes.
          </li>
          <li>
            <strong>±.</strong> Half of the interval that holds the true value in 95 of 100 cases. It comes
            from the noise of this very log, from what the fit cannot know, and from the receiver's smoothing.
          </li>
          <li>
            <strong>A verdict.</strong> The difference of the groups' means, with the scatter from run to run
            and from day to day. Faster or slower is said where zero is outside the 95 % interval; leans where
            it is outside the 80 % one.
          </li>
          <li>
            <strong>One day against one other day.</strong> The scatter from day to day is not known then. It
            is assumed, and the interval is wide. One more day per setup narrows it most.
          </li>
          <li>
            <strong>Conditions.</strong> What differs between groups is named with what it could account for.
            An adjusted difference takes it out where your own runs tell its effect.
          </li>
        </ul>
        <p className="quiet">
          The cars, receivers and seasons that this was tried on, and where it does not hold, are in
          docs/accuracy.md and docs/method.md, which come with Coombe.
        </p>
      </section>
    </>
  );
}
