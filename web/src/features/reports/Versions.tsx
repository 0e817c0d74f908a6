import { dayAndTime } from "../../shared/dates";
import type { Version } from "./queries";

const FILES = [
  ["html", "HTML, one file"],
  ["pdf", "PDF"],
  ["package", "Data package"],
] as const;

/** What was published, the newest first: its files, and what it changed. */
export function Versions({ versions }: { versions: readonly Version[] }) {
  return (
    <section className="sheet" aria-label="Published">
      <h2>Published</h2>
      {versions.length === 0 && (
        <p>
          Not yet. What is published is kept as it stands, with its logs: later changes of runs make a new
          version, and this one stays readable.
        </p>
      )}
      {versions.map((version) => (
        <div key={version.id} className="report-part">
          <div>
            <strong>Version {version.number}</strong>{" "}
            <span className="quiet">
              {dayAndTime(version.published_at)}, {version.published_by}, core {version.core_version}
            </span>
          </div>
          <div className="row">
            {FILES.filter(([kind]) => kind !== "package" || version.has_package).map(([kind, name]) => (
              <a key={kind} href={`/api/v1/report-versions/${version.id}/file/${kind}/`}>
                {name}
              </a>
            ))}
            {version.cards.map((title, place) => (
              <a
                key={place}
                href={`/api/v1/report-versions/${version.id}/card/${place}/`}
                title="A picture of 1200 by 630 dots"
              >
                {`Card: ${title}`}
              </a>
            ))}
          </div>
          {version.changes.length > 0 && (
            <ul className="reasons">
              {version.changes.map((change) => (
                <li key={change}>{change}</li>
              ))}
            </ul>
          )}
        </div>
      ))}
    </section>
  );
}
