import { Button, message } from "antd";
import { useRef } from "react";
import { Link, useParams } from "react-router";

import { addressOf, painted } from "../../shared/painted";
import { usePreferences } from "../../shared/preferences";
import { Failed, Loading } from "../../shared/States";
import { useTitle } from "../../shared/useTitle";
import { useBeside, useRun } from "./queries";
import { slipOf, type Slip, type SlipLine } from "./slip";

const WIDTH = 420;
const LEFT = 24;
const COLUMNS = [210, 290, 345, 396];
const LINE = 24;
const INK = "#1a1a1a";
const QUIET = "#555";

/** A run on a card: the lines of the strip on both clocks, to print or to send as a picture. */
export function SlipPage() {
  const id = Number(useParams().id);
  const run = useRun(id);
  const beside = useBeside(id);
  const { family } = usePreferences();
  useTitle("Slip");
  const card = useRef<SVGSVGElement>(null);
  const [note, noteHere] = message.useMessage();
  if (run.isPending || beside.isPending) return <Loading what="the run" />;
  if (run.error ?? beside.error) return <Failed error={run.error ?? beside.error} />;
  const slip = slipOf(run.data, beside.data?.density_altitude_m ?? null, family);
  const picture = async () => {
    const drawn = card.current;
    if (!drawn) throw new Error("nothing is drawn yet");
    const svg = new XMLSerializer().serializeToString(drawn);
    return painted(addressOf(svg), WIDTH, heightOf(slip));
  };
  const copy = async () => {
    const canvas = await picture();
    const blob = await new Promise<Blob | null>((done) => canvas.toBlob(done, "image/png"));
    if (!blob) throw new Error("the picture could not be made");
    await navigator.clipboard.write([new ClipboardItem({ "image/png": blob })]);
    void note.success("Copied.");
  };
  const save = async () => {
    const link = document.createElement("a");
    link.href = (await picture()).toDataURL("image/png");
    link.download = `slip-${id}.png`;
    link.click();
  };
  const trouble = () => void note.error("This browser can't copy pictures: save it instead.");
  return (
    <>
      {noteHere}
      <div className="page-head no-print">
        <h1>Slip</h1>
        <Link to={`/runs/${id}`}>Run sheet</Link>
        <span className="push acts">
          <Link to={`/reports?run=${id}&title=${encodeURIComponent(slip.title)}`}>Report</Link>
          <Button onClick={() => window.print()}>Print</Button>
          <Button onClick={() => void save()}>Save as PNG</Button>
          <Button type="primary" onClick={() => void copy().catch(trouble)}>
            Copy picture
          </Button>
        </span>
      </div>
      <div className="slip">
        <Card slip={slip} card={card} />
      </div>
    </>
  );
}

function heightOf({ lines, speeds, facts }: Slip): number {
  return 150 + LINE * (lines.length + speeds.length + Math.ceil(facts.length / 2)) + 60;
}

function Card({ slip, card }: { slip: Slip; card: React.RefObject<SVGSVGElement | null> }) {
  const height = heightOf(slip);
  const top = 104;
  const speedsAt = top + LINE * (slip.lines.length + 1);
  const factsAt = speedsAt + LINE * slip.speeds.length + 20;
  return (
    <svg
      ref={card}
      xmlns="http://www.w3.org/2000/svg"
      width={WIDTH}
      height={height}
      viewBox={`0 0 ${WIDTH} ${height}`}
      fontFamily="'Public Sans Variable', sans-serif"
      fontSize={14}
      fill={INK}
      role="img"
      aria-label={wordsOf(slip)}
    >
      <rect width={WIDTH} height={height} fill="#fff" stroke={INK} />
      <text x={LEFT} y={34} fontSize={18} fontWeight={650}>
        {slip.title}
      </text>
      <text x={LEFT} y={56} fill={QUIET}>
        {slip.driven}
      </text>
      {["rollout, s", "first movement", slip.unit, "trap"].map((name, place) => (
        <text key={name} x={COLUMNS[place]} y={84} fontSize={10} fill={QUIET} textAnchor="end">
          {name}
        </text>
      ))}
      <line x1={LEFT} x2={WIDTH - LEFT} y1={90} y2={90} stroke={INK} />
      {slip.lines.map((line, n) => (
        <Row key={line.name} line={line} y={top + LINE * n + 6} />
      ))}
      {slip.speeds.map((line, n) => (
        <Row key={line.name} line={line} y={speedsAt + LINE * n} />
      ))}
      <line
        x1={LEFT}
        x2={WIDTH - LEFT}
        y1={factsAt - 6}
        y2={factsAt - 6}
        stroke={QUIET}
        strokeDasharray="2 3"
      />
      {slip.facts.map(([name, value], n) => (
        <text
          key={name}
          x={n % 2 ? WIDTH / 2 + 6 : LEFT}
          y={factsAt + 16 + LINE * Math.floor(n / 2)}
          fontSize={13}
        >
          <tspan fill={QUIET}>{name} </tspan>
          {value}
        </text>
      ))}
      <text x={LEFT} y={height - 16} fontSize={11} fill={QUIET}>
        Coombe. Uncorrected times by satellite receiver.
      </text>
    </svg>
  );
}

function Row({ line, y }: { line: SlipLine; y: number }) {
  return (
    <g>
      <text x={LEFT} y={y}>
        {line.name}
      </text>
      {[line.rollout, line.firstMovement, line.speed, line.trap].map((text, place) => (
        <text
          key={place}
          x={COLUMNS[place]}
          y={y}
          textAnchor="end"
          fontWeight={place === 0 ? 650 : 400}
          style={{ fontVariantNumeric: "tabular-nums" }}
        >
          {text === "–" ? "" : text}
        </text>
      ))}
    </g>
  );
}

function wordsOf(slip: Slip): string {
  const lines = [...slip.lines, ...slip.speeds].map((line) => `${line.name} ${line.rollout} s`);
  return `Slip of ${slip.title}, ${slip.driven}: ${lines.join(", ")}`;
}
