import { lazy, Suspense, type ComponentProps } from "react";

const Drawn = lazy(() => import("./Chart"));

/** The chart library is large: it is fetched when the first chart is drawn, and the page stays up meanwhile. */
export function Chart(props: ComponentProps<typeof Drawn>) {
  return (
    <Suspense fallback={<div style={{ height: props.height }} />}>
      <Drawn {...props} />
    </Suspense>
  );
}
