import { Button, Progress } from "antd";
import { Link } from "react-router";

import type { Schemas } from "../../api/client";
import { NameColumns } from "./NameColumns";
import { useChangeMany } from "./queries";
import type { Given, Upload } from "./imports";
import { whenOpened } from "../../shared/whenOpened";

// The calendar is large, and few logs lack their date.
const AskDay = whenOpened(
  () => import("./AskDay").then(({ AskDay }) => AskDay),
  () => null,
);

const STATE_WORDS = {
  waiting: "waiting",
  sending: "sending",
  timing: "finding and timing runs",
  done: "",
  refused: "refused",
  canceled: "",
};

/** What became of each file: its runs, or why it was refused, and every line that was left out. */
export function UploadList(props: {
  uploads: Upload[];
  cancel: (() => void) | null;
  again: (upload: Upload, given: Given) => Promise<void>;
}) {
  const { uploads, cancel, again } = props;
  if (!uploads.length) return null;
  return (
    <div className="above" aria-live="polite">
      {cancel && (
        <Button size="small" onClick={cancel}>
          Cancel this file
        </Button>
      )}
      {uploads.map((upload) => (
        <UploadRow key={upload.key} upload={upload} again={(given) => void again(upload, given)} />
      ))}
    </div>
  );
}

/** How much of the file is sent, then how many of its runs are timed. */
function percentOf({ state, percent, timed, found }: Upload): number {
  return state === "timing" ? Math.round((100 * (timed ?? 0)) / (found || 1)) : percent;
}

function stateOf({ state, timed, found }: Upload): string {
  return state === "timing" && found ? `timing runs: ${timed ?? 0} of ${found}` : STATE_WORDS[state];
}

/** Where the runs of a log that is known already are, and the offer to move them to the setup that was chosen now. */
function Elsewhere({ log, setup }: { log: Schemas["Log"]; setup?: number }) {
  const change = useChangeMany();
  const elsewhere = log.setup_names.join(", ");
  const move = () =>
    setup !== undefined &&
    change.mutate({ runs: log.run_ids.map((id) => ({ id })), changes: { setup }, apply: true });
  return (
    <>
      <Link to={`/logs/${log.id}`} className="apart">
        under {elsewhere || "no setup"}
      </Link>
      {setup !== undefined && log.run_ids.length > 0 && !change.data && (
        <Button size="small" loading={change.isPending} onClick={move}>
          Move its runs to the setup chosen here
        </Button>
      )}
      {change.data?.sentence} {change.error?.message}
    </>
  );
}

function UploadRow(props: { upload: Upload; again: (given: Given) => void }) {
  const { upload, again } = props;
  const { log } = upload;
  const busy = upload.state === "sending" || upload.state === "timing";
  return (
    <div className={upload.state === "refused" ? "flag void" : "flag"}>
      <strong>{upload.name}</strong> <span className="quiet">{stateOf(upload)}</span> {upload.message}{" "}
      {log?.run_ids.map((id, index) => (
        <Link key={id} to={`/runs/${id}`} className="apart">
          run {index + 1}
        </Link>
      ))}
      {log && upload.already && <Elsewhere log={log} setup={upload.setup} />}
      {upload.doubt && <p className="flag caution">{upload.doubt}</p>}
      {log?.run_ids.length === 0 && (
        <span>No standing start and no stop in this log: was the receiver on before the launch?</span>
      )}
      {upload.state === "refused" && upload.headings && (
        <NameColumns
          headings={upload.headings}
          submit="Import with these columns"
          done={(layout) => again({ layout })}
        />
      )}
      {upload.state === "refused" && upload.undated && (
        <AskDay done={again} later={() => again({ later: true })} />
      )}
      {busy && (
        <Progress percent={percentOf(upload)} size="small" aria-label={`Progress of ${upload.name}`} />
      )}
      {log && log.rejected > 0 && (
        <details>
          <summary>{log.rejected} lines rejected</summary>
          <ul>
            {log.rejections.map((each) => (
              <li key={`${each.line} ${each.reason}`}>
                line {each.line}: {each.reason}
              </li>
            ))}
          </ul>
        </details>
      )}
    </div>
  );
}
