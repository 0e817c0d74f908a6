import { usePreferences } from "../../shared/preferences";
import { palette } from "../../shared/chartStyle";
import type { Pair, Result } from "./queries";
import { fixed } from "../../shared/units";
import { useQuantity } from "./quantity";

const WIDTH = 1000;
const EDGE = 40;

/** The difference with its interval against zero. */
export function IntervalChart({ result, pair }: { result: Result; pair: Pair }) {
  const quantity = useQuantity(result);
  const { mode } = usePreferences();
  const p = palette(mode);
  const { difference, detectable: smallest } = pair;
  if (!difference) return null;
  const reach = 1.25 * Math.max(Math.abs(difference.low95), Math.abs(difference.high95), smallest ?? 0);
  const at = (si: number) => WIDTH / 2 + (si / reach) * (WIDTH / 2 - EDGE);
  const color = difference.low95 > 0 || difference.high95 < 0 ? p.accent : p.quiet;
  return (
    <div className="below">
      <svg
        viewBox={`0 0 ${WIDTH} 50`}
        preserveAspectRatio="none"
        role="img"
        aria-label={`Difference ${quantity.text(difference.value)} ${quantity.unit}, 95 % interval from ${quantity.text(difference.low95)} to ${quantity.text(difference.high95)}`}
        style={{ width: "100%", height: 54, display: "block" }}
      >
        {smallest !== null && smallest > 0 && (
          <rect
            x={at(-smallest)}
            y={8}
            width={at(smallest) - at(-smallest)}
            height={40}
            fill={p.rule}
            opacity={0.45}
          />
        )}
        <line x1={EDGE} x2={WIDTH - EDGE} y1={48} y2={48} stroke={p.ink} />
        <line x1={at(0)} x2={at(0)} y1={2} y2={50} stroke={p.ink} strokeWidth={2} />
        <line
          x1={at(difference.low95)}
          x2={at(difference.high95)}
          y1={28}
          y2={28}
          stroke={color}
          strokeWidth={7}
        />
        <line
          x1={at(difference.value)}
          x2={at(difference.value)}
          y1={15}
          y2={41}
          stroke={color}
          strokeWidth={5}
        />
      </svg>
      <div style={{ position: "relative", height: 22 }}>
        {niceTicks(quantity.of(reach)).map((value) => (
          <span
            key={value}
            className="tick"
            style={{ left: `${at((value * reach) / quantity.of(reach)) / (WIDTH / 100)}%` }}
          >
            {value === 0 ? `0 ${quantity.unit}` : fixed(value, 2)}
          </span>
        ))}
      </div>
    </div>
  );
}

/** Round values within ±reach: one, two or five times a power of ten apart. */
function niceTicks(reach: number): number[] {
  const rough = reach / 3;
  const power = 10 ** Math.floor(Math.log10(rough));
  const step = power * ([1, 2, 5, 10].find((times) => times * power >= rough) ?? 10);
  const count = Math.floor((0.95 * reach) / step);
  return Array.from({ length: 2 * count + 1 }, (_, index) => (index - count) * step);
}
