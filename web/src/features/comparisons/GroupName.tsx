import type { ReactNode } from "react";

import { groupMark } from "./groups";

/** A group's name behind the mark that it is drawn with everywhere. */
export function GroupName({ place, children }: { place: number; children: ReactNode }) {
  return (
    <>
      <span className={groupMark(place)} />
      {children}
    </>
  );
}
