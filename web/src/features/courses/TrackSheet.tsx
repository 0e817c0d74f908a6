import { useMemo } from "react";

import type { Schemas } from "../../api/client";
import { palette } from "../../shared/chartStyle";
import { MapChart } from "../../shared/MapChart";
import { usePreferences } from "../../shared/preferences";
import { unitOf } from "../../shared/units";
import type { Palette } from "../../theme";
import { useTracks } from "./queries";

/** The ways that the latest runs took over the course, north up and to scale; nothing is fetched under it. */
export function TrackSheet({ course }: { course: number }) {
  const tracks = useTracks(course);
  const { family, mode } = usePreferences();
  const unit = unitOf("distance", family);
  const map = useMemo(() => mapOf(tracks.data ?? [], unit.factor, palette(mode)), [tracks.data, unit, mode]);
  return (
    <section className="sheet">
      <h2>Map</h2>
      {tracks.data?.length === 0 && <p>No tracks yet. Import a log and choose this course.</p>}
      {tracks.data && tracks.data.length > 0 && (
        <>
          <MapChart {...map} unit={unit.name} height={230} label="Tracks of the latest runs, north up" />
          <p className="label">North up, to scale: the latest {tracks.data.length} runs.</p>
        </>
      )}
    </section>
  );
}

function mapOf(tracks: Schemas["Track"][], factor: number, p: Palette) {
  const scaled = (meters: number[]) => meters.map((each) => each / factor);
  return {
    east: tracks.flatMap((track) => scaled(track.east_m)),
    north: tracks.flatMap((track) => scaled(track.north_m)),
    series: tracks.map((track) => ({
      type: "line",
      symbol: "none",
      lineStyle: { color: p.ink, width: 1.5, opacity: 0.6 },
      data: track.east_m.map((each, place) => [each / factor, (track.north_m[place] ?? 0) / factor]),
    })),
  };
}
