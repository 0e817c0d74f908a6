import { Suspense, type ComponentProps } from "react";

import { whenOpened } from "./whenOpened";

export const Drawn = whenOpened(() => import("./Chart").then((chart) => chart.default));

/** The chart library is large: it is fetched when the first chart is drawn, and the page stays up meanwhile. */
export function Chart(props: ComponentProps<typeof Drawn>) {
  return (
    <Suspense fallback={<div style={{ height: props.height }} />}>
      <Drawn {...props} />
    </Suspense>
  );
}
