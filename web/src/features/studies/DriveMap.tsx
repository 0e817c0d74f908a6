import { Slider } from "antd";
import { useMemo, useState } from "react";

import { palette } from "../../shared/chartStyle";
import { MapChart } from "../../shared/MapChart";
import { usePreferences } from "../../shared/preferences";
import { unitOf } from "../../shared/units";
import type { Palette } from "../../theme";
import type { StudyDrive } from "./queries";

const LINE_SHARE = 0.05; // of the track's width and height: long enough to be seen

interface Props {
  drive: StudyDrive;
  /** Moves the start line to a place of the drive. */
  move?: (place: number) => void;
}

/** Where the drive went, north up and to scale, with the start line that laps are timed at. */
export function DriveMap({ drive, move }: Props) {
  const { family, mode } = usePreferences();
  const [held, hold] = useState<number | null>(null);
  const start = held ?? drive.start;
  const unit = unitOf("distance", family);
  const track = useMemo(() => trackOf(drive, unit.factor), [drive, unit.factor]);
  const series = useMemo(() => seriesOf(drive, track, start, palette(mode)), [drive, track, start, mode]);
  const pick = useMemo(
    () => move && ((x: number, y: number) => move(nearest(drive, x * unit.factor, y * unit.factor))),
    [drive, move, unit.factor],
  );
  if (drive.east_m.length === 0) return null;
  return (
    <section className="sheet" aria-label="Drive">
      <h2>Drive</h2>
      <MapChart
        {...track}
        series={series}
        unit={unit.name}
        height={260}
        label="Track of the drive with the start line, north up"
        {...(pick ? { pick } : {})}
      />
      {move && (
        <label className="no-print">
          Start line, along the drive
          <Slider
            ariaLabelForHandle="Start line, along the drive"
            min={0}
            max={drive.east_m.length - 1}
            value={start ?? 0}
            tooltip={{ open: false }}
            onChange={hold}
            onChangeComplete={(place) => {
              hold(null);
              move(place);
            }}
          />
        </label>
      )}
      <p className="label">
        North up, to scale. {start === null ? "No start line was found." : "The bar is the start line."}
        {move && " Click the track to move it."}
      </p>
    </section>
  );
}

function nearest({ east_m, north_m }: StudyDrive, x: number, y: number): number {
  let found = 0;
  let least = Infinity;
  east_m.forEach((east, place) => {
    const apart = Math.hypot(east - x, (north_m[place] ?? 0) - y);
    if (apart < least) [found, least] = [place, apart];
  });
  return found;
}

interface Track {
  east: number[];
  north: number[];
}

function trackOf({ east_m, north_m }: StudyDrive, factor: number): Track {
  const scaled = (meters: readonly number[]) => meters.map((each) => each / factor);
  return { east: scaled(east_m), north: scaled(north_m) };
}

function seriesOf(drive: StudyDrive, { east, north }: Track, start: number | null, p: Palette) {
  const line = (width: number, color: string, data: number[][]) => ({
    type: "line",
    symbol: "none",
    silent: true,
    lineStyle: { color, width },
    data,
  });
  const drawn = line(
    1.5,
    p.quiet,
    east.map((x, place) => [x, north[place] ?? 0]),
  );
  return start === null
    ? [drawn]
    : [drawn, line(5, p.ink, across({ east, north }, start, drive.heading_deg[start] ?? 0))];
}

/** A bar across the track at a place. */
function across({ east, north }: Track, place: number, heading_deg: number): number[][] {
  const [x, y] = [east[place] ?? 0, north[place] ?? 0];
  const heading = (heading_deg * Math.PI) / 180;
  const half =
    (LINE_SHARE * (Math.max(...east) - Math.min(...east) + Math.max(...north) - Math.min(...north))) / 2;
  const [dx, dy] = [half * Math.cos(heading), -half * Math.sin(heading)];
  return [
    [x - dx, y - dy],
    [x + dx, y + dy],
  ];
}
