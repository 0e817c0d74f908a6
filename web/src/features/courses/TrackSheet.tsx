import { useMemo } from "react";

import type { Schemas } from "../../api/client";
import { Chart, palette } from "../../shared/chartStyle";
import { usePreferences } from "../../shared/preferences";
import { mapAxis, toScale } from "../../shared/toScale";
import { unitOf } from "../../shared/units";
import type { Palette } from "../../theme";
import { useTracks } from "./queries";

/** The ways that the latest runs took over the course, north up and to scale; nothing is fetched under it. */
export function TrackSheet({ course }: { course: number }) {
  const tracks = useTracks(course);
  const { family, mode } = usePreferences();
  const unit = unitOf("distance", family);
  const p = palette(mode);
  const option = useMemo(
    () => mapOption(tracks.data ?? [], unit.factor, unit.name, p),
    [tracks.data, unit, p],
  );
  return (
    <section className="sheet">
      <h2>Map</h2>
      {tracks.data?.length === 0 && <p>No tracks yet. Import a log and choose this course.</p>}
      {tracks.data && tracks.data.length > 0 && (
        <>
          <Chart option={option} height={230} label="Tracks of the latest runs, north up" />
          <p className="label">North up, to scale: the latest {tracks.data.length} runs.</p>
        </>
      )}
    </section>
  );
}

function mapOption(tracks: Schemas["Track"][], factor: number, unit: string, p: Palette) {
  const scaled = (meters: number[]) => meters.map((each) => each / factor);
  const east = tracks.flatMap((track) => scaled(track.east_m));
  const north = tracks.flatMap((track) => scaled(track.north_m));
  const ends = toScale(east, north);
  return {
    grid: { left: 58, right: 16, top: 12, bottom: 44 },
    xAxis: { ...mapAxis(p, `east, ${unit}`), ...ends.east },
    yAxis: {
      ...mapAxis(p, `north, ${unit}`),
      nameGap: 42,
      ...ends.north,
    },
    series: tracks.map((track) => ({
      type: "line",
      symbol: "none",
      lineStyle: { color: p.ink, width: 1.5, opacity: 0.6 },
      data: track.east_m.map((each, place) => [each / factor, (track.north_m[place] ?? 0) / factor]),
    })),
  };
}
