import { dayAndTime, toTheMinute } from "./dates";

interface Props {
  of: { start_utc: string; start_local: string };
  /** Two runs of one minute stand beside each other. */
  seconds?: boolean;
}

/** When something was driven, by the clock at its course; UTC on hover. */
export function When({ of, seconds }: Props) {
  return (
    <time dateTime={of.start_utc} title={dayAndTime(of.start_utc)}>
      {seconds ? of.start_local : toTheMinute(of.start_local)}
    </time>
  );
}
