import { useEffect, useRef, useState, type ComponentProps } from "react";

import { usePrinted } from "./usePrinted";
import { whenOpened } from "./whenOpened";

export const Drawn = whenOpened(() => import("./Chart").then((chart) => chart.default), Place);

const NEAR = "120px"; // below the window: drawn before it is scrolled to

/**
 * A chart that is drawn when it comes near the window, or goes to paper. Its library is large, and a page has many
 * charts: what nobody looks at holds up nobody.
 */
export function Chart(props: ComponentProps<typeof Drawn>) {
  const place = useRef<HTMLDivElement>(null);
  const [near, setNear] = useState(false);
  const printed = usePrinted();
  useEffect(() => {
    if (!place.current) return;
    const watch = new IntersectionObserver(
      (seen) => {
        if (!seen.some(({ isIntersecting }) => isIntersecting)) return;
        setNear(true);
        watch.disconnect();
      },
      { rootMargin: `0px 0px ${NEAR}` },
    );
    watch.observe(place.current);
    return () => watch.disconnect();
  }, []);
  return <div ref={place}>{near || printed ? <Drawn {...props} /> : <Place {...props} />}</div>;
}

/** Where a chart will stand. */
function Place({ label, height }: { label: string; height?: number | string }) {
  return <div role="img" aria-label={label} style={{ height }} />;
}
