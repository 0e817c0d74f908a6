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
