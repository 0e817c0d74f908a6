import { digitsBeside, fixed } from "./units";

interface Props {
  value: number | null | undefined;
  /** Half of the 95 % interval. */
  u95: number | null | undefined;
  digits: number;
}

/** A number and how sure it is, never with an interval that reads as zero; a dash where there is none. */
export function Measured({ value, u95, digits }: Props) {
  if (typeof value !== "number") return <>–</>;
  const shown = digitsBeside(u95, digits);
  return (
    <>
      {fixed(value, shown)} <span className="u95">± {fixed(u95, shown)}</span>
    </>
  );
}
