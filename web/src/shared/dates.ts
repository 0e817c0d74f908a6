/** A UTC instant as a clock in a time zone shows it, such as `2026-05-09 11:02`. */
export function local(utc: string, zone: string): string {
  return new Intl.DateTimeFormat("sv-SE", { timeZone: zone, dateStyle: "short", timeStyle: "short" }).format(
    new Date(utc),
  );
}

/** The time zone of this browser. */
export function ownZone(): string {
  return Intl.DateTimeFormat().resolvedOptions().timeZone;
}

/** An instant in UTC, for what people did at a screen: `2026-05-09 09:02 UTC`. */
export function dayAndTime(utc: string): string {
  return `${utc.slice(0, 10)} ${utc.slice(11, 16)} UTC`;
}

/** A course's time as the server writes it, `2026-05-09 10:02:31 BST`, to the minute. */
export function toTheMinute(courseTime: string): string {
  return courseTime.slice(0, 16) + courseTime.slice(19);
}
