import { Button } from "antd";
import { useNavigate } from "react-router";

import { usePreferences } from "../../shared/preferences";
import { STEPS } from "./steps";

/** Five steps through the pages, above whichever is open; closed once, it stays closed in this browser. */
export function Tour() {
  const { tour, setTour } = usePreferences();
  const navigate = useNavigate();
  const step = typeof tour === "number" ? STEPS[tour] : undefined;
  if (!step || typeof tour !== "number") return null;
  const go = (to: number) => {
    const next = STEPS[to];
    if (!next) return setTour("closed");
    setTour(to);
    void navigate(next.to);
  };
  return (
    <section className="sheet tour no-print" aria-label="Tour">
      <div className="label">
        Tour, {tour + 1} of {STEPS.length}
      </div>
      <h2>{step.title}</h2>
      <p>{step.text}</p>
      <div className="row">
        {tour > 0 && <Button onClick={() => go(tour - 1)}>Back</Button>}
        <Button type="primary" onClick={() => go(tour + 1)}>
          {tour + 1 < STEPS.length ? "Next" : "Done"}
        </Button>
        <Button type="text" className="push" onClick={() => setTour("closed")}>
          Close for good
        </Button>
      </div>
    </section>
  );
}
