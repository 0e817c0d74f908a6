import { useMemo, useState } from "react";

import { Chart, palette } from "../../shared/chartStyle";
import { usePreferences } from "../../shared/preferences";
import { linkOf, optionOf, VIEWS, type View } from "./curves";
import type { Details, Result } from "./queries";

interface Props {
  details: Details;
  result: Result;
}

/** Every picture at once: pointing at one marks the same instant of the first group in all of them. */
export function CurveGrid({ details, result }: Props) {
  const [open, setOpen] = useState(false);
  const offered = Object.entries(VIEWS).filter(([, view]) => view.curves(details).some((c) => c?.x.length));
  if (offered.length < 2) return null;
  return (
    <details className="sheet no-print" onToggle={(event) => setOpen(event.currentTarget.open)}>
      <summary>All curves, one cursor</summary>
      {open && (
        <div className="curve-grid">
          {offered.map(([name, view]) => (
            <Picture key={name} view={view} details={details} result={result} />
          ))}
        </div>
      )}
    </details>
  );
}

function Picture({ view, details, result }: Props & { view: View }) {
  const { family, mode } = usePreferences();
  const option = useMemo(
    () => optionOf(view, details, result, family, palette(mode)),
    [view, details, result, family, mode],
  );
  const link = useMemo(() => linkOf(view, details, family), [view, details, family]);
  return (
    <figure>
      <figcaption>{view.title}</figcaption>
      <Chart option={option} height={210} label={`${view.title} of every group`} link={link} />
    </figure>
  );
}
