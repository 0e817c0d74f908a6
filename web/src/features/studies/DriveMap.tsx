import { Slider } from "antd";
import { useMemo, useState } from "react";

import { Chart, palette } from "../../shared/chartStyle";
import { usePreferences } from "../../shared/preferences";
import { mapAxis, toScale } from "../../shared/toScale";
import { unitOf } from "../../shared/units";
import type { Palette } from "../../theme";
import type { StudyDrive } from "./queries";

const LINE_SHARE = 0.05; // of the map's width: long enough to be seen

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
  const p = palette(mode);
  const unit = unitOf("distance", family);
  const option = useMemo(
    () => mapOption(drive, start, unit.factor, unit.name, p),
    [drive, start, unit.factor, unit.name, p],
  );
  const pick = useMemo(
    () => move && ((x: number, y: number) => move(nearest(drive, x * unit.factor, y * unit.factor))),
    [drive, move, unit.factor],
  );
  if (drive.east_m.length === 0) return null;
  return (
    <section className="sheet" aria-label="Drive">
      <h2>Drive</h2>
      <Chart
        option={option}
        height={260}
        label="Track of the drive with the start line, north up"
        pick={pick}
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

function mapOption(drive: StudyDrive, start: number | null, factor: number, unit: string, p: Palette) {
  const scaled = (meters: readonly number[]) => meters.map((each) => each / factor);
  const [east, north] = [scaled(drive.east_m), scaled(drive.north_m)];
  const ends = toScale(east, north);
  const line = (width: number, color: string, data: [number, number][]) => ({
    type: "line",
    symbol: "none",
    silent: true,
    lineStyle: { color, width },
    data,
  });
  const track = east.map((x, place): [number, number] => [x, north[place] ?? 0]);
  return {
    grid: { left: 58, right: 16, top: 12, bottom: 44 },
    xAxis: { ...mapAxis(p, `east, ${unit}`), ...ends.east },
    yAxis: { ...mapAxis(p, `north, ${unit}`), nameGap: 42, ...ends.north },
    series: [
      line(1.5, p.quiet, track),
      ...(start === null ? [] : [line(5, p.ink, across(drive, start, track, ends.east.max - ends.east.min))]),
    ],
  };
}

/** A bar across the track at a place. */
function across(
  drive: StudyDrive,
  place: number,
  track: [number, number][],
  width: number,
): [number, number][] {
  const [x, y] = track[place] ?? [0, 0];
  const heading = ((drive.heading_deg[place] ?? 0) * Math.PI) / 180;
  const half = (LINE_SHARE * width) / 2;
  const [dx, dy] = [half * Math.cos(heading), -half * Math.sin(heading)];
  return [
    [x - dx, y - dy],
    [x + dx, y + dy],
  ];
}
