import type { Schemas } from "../../api/client";
import { shown, unitOf, type Family } from "../../shared/units";
import { CLOCK_NAMES } from "../../shared/measures";
import { DataTable } from "../../shared/DataTable";
import { Measured } from "../../shared/Measured";
import type { Run } from "./queries";

export type Row = Run["measured"][number];
type Corrected = Schemas["Corrected"];

const INTERVAL = "± is the half-width of the 95 % interval.";

interface Line {
  name: string;
  row?: Row;
  first?: Row;
  beside?: Corrected["measured"][number];
}

/** Times on both clocks side by side, the corrected one beside the uncorrected one, and the speed at a line. */
export function TimeTable(props: { rows: Row[]; family: Family; corrected: Corrected | null }) {
  const { rows, family, corrected } = props;
  const both = rows.some((row) => row.clock === "first_movement");
  const atLines = rows.some((row) => typeof row.line_speed_mps === "number");
  const time = (row: Row | Line["beside"]) => (
    <Measured value={row?.time_s} u95={row?.time_u95_s} digits={2} />
  );
  const speed = (mps: number | null | undefined) =>
    typeof mps === "number" ? shown(mps, "speed", family) : mps;
  return (
    <>
      <DataTable
        rows={linesOf(rows, corrected)}
        rowKey={(line) => line.name}
        columns={[
          { title: "Measure", value: (line) => line.name },
          {
            title: `${both ? CLOCK_NAMES.rollout : "time"}, s`,
            number: true,
            value: (line) => time(line.row),
          },
          both && {
            title: `${CLOCK_NAMES.first_movement}, s`,
            number: true,
            value: (line) => time(line.first),
          },
          corrected !== null &&
            corrected.parts.length > 0 && {
              title: "corrected, s",
              number: true,
              value: (line) => time(line.beside),
            },
          atLines && {
            title: `at the line, ${unitOf("speed", family).name}`,
            number: true,
            value: ({ row }) => (
              <Measured value={speed(row?.line_speed_mps)} u95={speed(row?.line_speed_u95_mps)} digits={2} />
            ),
          },
        ]}
      />
      <Explained corrected={corrected} both={both} />
    </>
  );
}

function linesOf(rows: Row[], corrected: Corrected | null): Line[] {
  return [...new Set(rows.map((row) => row.name))].map((name) => {
    const find = (clock: string) => rows.find((row) => row.name === name && row.clock === clock);
    const row = find("rollout") ?? find("speed");
    const beside = corrected?.measured.find((each) => each.name === name && each.clock === row?.clock);
    return { name, row, first: find("first_movement"), beside };
  });
}

function Explained({ corrected, both }: { corrected: Corrected | null; both: boolean }) {
  const clock = both ? " on the rollout clock" : "";
  return (
    <>
      <p className="label">
        {INTERVAL}
        {corrected?.reference && ` Corrected${clock}: the same run on ${corrected.reference}.`}
        {corrected &&
          corrected.assumed.length > 0 &&
          ` Assumed: ${corrected.assumed.join(", ").replaceAll("_", " ")}.`}
      </p>
      {corrected?.missing.map((each) => (
        <p key={each} className="label">
          {each}
        </p>
      ))}
    </>
  );
}

export function StopTable({ rows, family }: { rows: Row[]; family: Family }) {
  const unit = unitOf("distance", family);
  const distance = (meters: number | null | undefined, u95: number | null | undefined) => (
    <Measured value={meters && meters / unit.factor} u95={u95 && u95 / unit.factor} digits={1} />
  );
  return (
    <>
      <DataTable
        rows={rows}
        rowKey={(row) => row.name}
        columns={[
          { title: "Measure", value: (row) => row.name },
          {
            title: `through nominal, ${unit.name}`,
            number: true,
            value: (row) => distance(row.distance_m, row.distance_u95_m),
          },
          {
            title: `from onset, ${unit.name}`,
            number: true,
            value: (row) => distance(row.onset_distance_m, row.onset_distance_u95_m),
          },
          {
            title: "time, s",
            number: true,
            value: (row) => <Measured value={row.time_s} u95={row.time_u95_s} digits={2} />,
          },
        ]}
      />
      <p className="label">
        {INTERVAL} The distance from onset is corrected to the nominal speed, for stops that began within 3 %
        of it. Driver reaction is in neither.
      </p>
    </>
  );
}
