import { Select } from "antd";
import { useState } from "react";

import { axis, Chart, palette, tooltip } from "../../shared/chartStyle";
import { usePreferences } from "../../shared/preferences";
import { shown, type Family } from "../../shared/units";
import type { Palette } from "../../theme";
import type { CarColumn } from "./allCars";
import type { AllCarsRow } from "./queries";

const BY_POWER = "mass_per_power_kg_per_kw";
const SIXTY_MPS = 26.8224;

/** Any two columns against each other; sprints against mass by power with the least that power allows. */
export function AllCarsPlot({
  rows,
  columns,
}: {
  rows: readonly AllCarsRow[];
  columns: readonly CarColumn[];
}) {
  const { family, mode } = usePreferences();
  const numbers = columns.filter((column) => column.number);
  const [chosen, choose] = useState({ x: BY_POWER, y: "" });
  const x = numbers.find((column) => column.key === chosen.x) ?? numbers[0];
  const y =
    numbers.find((column) => column.key === chosen.y) ?? numbers.find((column) => column.key.includes("|"));
  const option = x && y ? optionOf(rows, x, y, family, palette(mode)) : null;
  if (!x || !y || !option) return null;
  const options = numbers.map((column) => ({ value: column.key, label: column.title(family) }));
  return (
    <section className="sheet" aria-label="One column against another">
      <div className="row">
        <Select
          aria-label="Upward"
          value={y.key}
          options={options}
          onChange={(key: string) => choose({ ...chosen, y: key })}
        />
        <span>against</span>
        <Select
          aria-label="To the right"
          value={x.key}
          options={options}
          onChange={(key: string) => choose({ ...chosen, x: key })}
        />
      </div>
      <Chart
        option={option}
        height={320}
        label={`${y.title(family)} against ${x.title(family)}, a point a setup`}
      />
      {isSprint(x, y) && (
        <p className="label">
          Dotted: the least time that its power allows, ½ v² times mass by power. Grip, torque and losses add
          to it.
        </p>
      )}
    </section>
  );
}

function isSprint(x: CarColumn, y: CarColumn) {
  return x.key === BY_POWER && y.key.startsWith("0-60 mph|");
}

function optionOf(rows: readonly AllCarsRow[], x: CarColumn, y: CarColumn, family: Family, p: Palette) {
  const points = rows.flatMap((row) => {
    const [at, value] = [x.value(row), y.value(row)];
    if (typeof at !== "number" || typeof value !== "number") return [];
    return [
      {
        value: [shown(at, x.kind, family), shown(value, y.kind, family)],
        name: `${row.car_name}, ${row.setup_name}`,
      },
    ];
  });
  const ends = points.map((point) => point.value[0] ?? 0);
  const least = (by: number) => [by, (by * SIXTY_MPS ** 2) / 2000];
  const rule = isSprint(x, y) && ends.length > 0 ? [least(Math.min(...ends)), least(Math.max(...ends))] : [];
  return {
    grid: { left: 66, right: 24, top: 18, bottom: 52 },
    tooltip: { trigger: "item", ...tooltip(p) },
    xAxis: { ...axis(p, x.title(family)), scale: true },
    yAxis: { ...axis(p, y.title(family)), nameGap: 48, scale: true },
    series: [
      {
        type: "scatter",
        symbolSize: 9,
        itemStyle: { color: p.accent },
        label: { show: points.length <= 24, position: "top", color: p.ink, fontSize: 12, formatter: "{b}" },
        labelLayout: { hideOverlap: true },
        data: points,
      },
      {
        type: "line",
        symbol: "none",
        silent: true,
        lineStyle: { color: p.quiet, type: "dotted" },
        data: rule,
      },
    ],
  };
}
