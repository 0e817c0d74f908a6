import type { Schemas } from "../../api/client";
import { usePreferences } from "../../shared/preferences";
import { withUnit } from "../../shared/units";

const PARTS = [
  ["pull_m", "pull"],
  ["reaction_m", "react"],
  ["stopping_m", "stop"],
  ["margin_m", "margin"],
] as const;

/** What a run needs of a strip, part by part to scale, against the length that there is. */
export function StripParts({ check }: { check: Schemas["StripCheck"] }) {
  const { family } = usePreferences();
  const whole = Math.max(check.needed_m, check.available_m);
  const share = (meters: number) => `${(100 * meters) / whole}%`;
  return (
    <>
      <p className={`flag ${check.fits ? "" : "void"}`} role="status">
        {check.sentence}
      </p>
      <div className="strip" role="img" aria-label={check.sentence}>
        {PARTS.map(([name, label]) => (
          <span key={name} className={`strip-part ${label}`} style={{ width: share(check[name]) }} />
        ))}
        <span className="strip-end" style={{ left: share(check.available_m) }}>
          <span>end of the strip</span>
        </span>
      </div>
      <p>
        {PARTS.map(([name, label]) => (
          <span key={name} className="strip-key">
            <span className={`strip-part ${label}`} /> {label} {withUnit(check[name], "distance", family, 0)}
          </span>
        ))}
      </p>
      <p className="label">{check.basis}</p>
    </>
  );
}
