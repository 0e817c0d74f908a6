import { Button, Progress } from "antd";
import { Link } from "react-router";

import { AskDay } from "./AskDay";
import { NameColumns } from "./NameColumns";
import type { Layout, Upload } from "./useImport";

const STATE_WORDS = {
  waiting: "waiting",
  sending: "sending",
  timing: "finding and timing runs",
  done: "",
  refused: "refused",
  cancelled: "",
};

/** What became of each file: its runs, or why it was refused, and every line that was left out. */
export function UploadList(props: {
  uploads: Upload[];
  cancel: (() => void) | null;
  again: (upload: Upload, given: { layout?: Layout; day?: string }) => Promise<void>;
}) {
  const { uploads, cancel, again } = props;
  if (!uploads.length) return null;
  return (
    <div style={{ marginTop: 12 }} aria-live="polite">
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

function UploadRow(props: { upload: Upload; again: (given: { layout?: Layout; day?: string }) => void }) {
  const { upload, again } = props;
  const { log } = upload;
  const busy = upload.state === "sending" || upload.state === "timing";
  return (
    <div className={upload.state === "refused" ? "flag void" : "flag"}>
      <strong>{upload.name}</strong> <span className="quiet">{STATE_WORDS[upload.state]}</span> {upload.said}{" "}
      {log?.run_ids.map((id, index) => (
        <Link key={id} to={`/runs/${id}`} style={{ marginRight: 8 }}>
          run {index + 1}
        </Link>
      ))}
      {log?.run_ids.length === 0 && (
        <span>No standing start and no stop in this log: was the receiver on before the launch?</span>
      )}
      {upload.state === "refused" && upload.headings && (
        <NameColumns headings={upload.headings} done={(layout) => again({ layout })} />
      )}
      {upload.state === "refused" && upload.undated && <AskDay done={(day) => again({ day })} />}
      {busy && <Progress percent={upload.percent} size="small" aria-label={`Sending ${upload.name}`} />}
      {log && log.rejected > 0 && (
        <details>
          <summary>{log.rejected} lines left out</summary>
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
