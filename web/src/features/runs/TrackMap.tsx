import { useMemo } from "react";

import type { Schemas } from "../../api/client";
import type { Link } from "../../shared/Chart";
import { palette, pointerSeries, valueAt } from "../../shared/chartStyle";
import { MapChart } from "../../shared/MapChart";
import { usePreferences } from "../../shared/preferences";
import { unitOf } from "../../shared/units";
import type { Palette } from "../../theme";

type Fixes = Schemas["Curve"]["fixes"];
const HEIGHT = 230;

/** The way that the receiver drew, north up and to scale; no map is under it, nothing is fetched. */
export function TrackMap({ fixes, end_s }: { fixes: Fixes; end_s: number }) {
  const { family, mode } = usePreferences();
  const unit = unitOf("distance", family);
  const track = useMemo(() => {
    const scaled = (meters: readonly (number | null)[]) =>
      meters.map((each) => (each === null ? null : each / unit.factor));
    return { since_s: fixes.since_s, east: scaled(fixes.east_m), north: scaled(fixes.north_m) };
  }, [fixes, unit.factor]);
  const series = useMemo(() => seriesOf(track, end_s, palette(mode)), [track, end_s, mode]);
  const places = useMemo(() => ({ east: known(track.east), north: known(track.north) }), [track]);
  const link = useMemo(() => trackLink(track), [track]);
  if (places.east.length === 0) return null;
  return (
    <section className="sheet">
      <h2>Track</h2>
      <MapChart
        {...places}
        series={series}
        unit={unit.name}
        link={link}
        height={HEIGHT}
        label="Track of the run, north up"
      />
      <p className="label">North up, to scale. Thick: the run. Thin: before and after it.</p>
    </section>
  );
}

interface Track {
  since_s: readonly number[];
  east: (number | null)[];
  north: (number | null)[];
}

function trackLink({ since_s, east, north }: Track): Link {
  return {
    sinceAt(x, y) {
      let nearest = 0;
      let least = Infinity;
      east.forEach((each, index) => {
        const apart = Math.hypot((each ?? Infinity) - x, (north[index] ?? Infinity) - y);
        if (apart < least) [nearest, least] = [index, apart];
      });
      return since_s[nearest] ?? null;
    },
    pointAt(at_s) {
      const x = valueAt(since_s, east, at_s);
      const y = valueAt(since_s, north, at_s);
      return x === null || y === null ? null : [x, y];
    },
  };
}

function known(values: readonly (number | null)[]): number[] {
  return values.filter((each) => each !== null);
}

function seriesOf(track: Track, end_s: number, p: Palette) {
  const points = track.since_s.map((at, index) => ({ at, point: [track.east[index], track.north[index]] }));
  const line = (name: string, lineWidth: number, color: string, chosen: typeof points) => ({
    name,
    type: "line",
    symbol: "none",
    lineStyle: { color, width: lineWidth },
    data: chosen.map((each) => each.point),
  });
  return [
    line("Fixes", 1, p.quiet, points),
    line(
      "Run",
      3.5,
      p.ink,
      points.filter((each) => each.at >= 0 && each.at <= end_s),
    ),
    pointerSeries(p),
  ];
}
