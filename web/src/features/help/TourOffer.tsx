import { Button } from "antd";
import { useNavigate } from "react-router";

import { usePreferences } from "../../shared/preferences";

/** The offer of the tour to somebody who has neither taken nor refused it. */
export function TourOffer() {
  const { tour, setTour } = usePreferences();
  const navigate = useNavigate();
  if (tour !== "new") return null;
  return (
    <p className="sheet row no-print">
      New here? Five short steps show what Coombe does.
      <Button
        className="push"
        onClick={() => {
          setTour(0);
          void navigate("/import");
        }}
      >
        Take the tour
      </Button>
      <Button type="text" onClick={() => setTour("closed")}>
        No, thanks
      </Button>
    </p>
  );
}
