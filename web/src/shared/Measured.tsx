import { fixed } from "./units";

interface Props {
  value: number | null | undefined;
  /** Half of the 95 % interval. */
  u95: number | null | undefined;
  digits: number;
}

/** A number and how sure it is; a dash where there is none. */
export function Measured({ value, u95, digits }: Props) {
  if (typeof value !== "number") return <>–</>;
  return (
    <>
      {fixed(value, digits)} <span className="u95">± {fixed(u95, digits)}</span>
    </>
  );
}
