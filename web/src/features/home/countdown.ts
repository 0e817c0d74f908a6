const MINUTE_MS = 60_000;
const HOUR_MIN = 60;
const DAY_MIN = 24 * HOUR_MIN;

/** How long until an instant, in the two largest units that matter. */
export function countdown(until: Date, now: Date): string {
  const minutes = Math.round((until.getTime() - now.getTime()) / MINUTE_MS);
  if (minutes <= 0) return "now";
  if (minutes < HOUR_MIN) return `in ${minutes} min`;
  if (minutes < DAY_MIN) return `in ${Math.floor(minutes / HOUR_MIN)} h ${minutes % HOUR_MIN} min`;
  const days = Math.floor(minutes / DAY_MIN);
  const hours = Math.floor((minutes % DAY_MIN) / HOUR_MIN);
  return days < 3 ? `in ${days} d ${hours} h` : `in ${Math.round(minutes / DAY_MIN)} days`;
}
