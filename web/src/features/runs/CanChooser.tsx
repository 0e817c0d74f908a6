import { Button } from "antd";
import { useRef } from "react";

import type { CanFiles } from "./imports";

const CAN_FILES = ".log,.asc,.blf,.candump,.txt";

/** The CAN log that goes with the receiver log to come, and its DBC where it is not Coombe's own. */
export function CanChooser({ chosen, choose }: { chosen: CanFiles; choose: (files: CanFiles) => void }) {
  return (
    <div className="can-chooser">
      <FileChoice
        label="CAN log"
        add="Add a CAN log"
        file={chosen.can_log}
        accept={CAN_FILES}
        choose={(can_log) => choose({ ...chosen, can_log })}
      />
      {chosen.can_log && (
        <FileChoice
          label="DBC"
          add="Add its DBC"
          file={chosen.dbc}
          accept=".dbc"
          choose={(dbc) => choose({ ...chosen, dbc })}
        />
      )}
      <span className="quiet">
        {chosen.can_log
          ? "Goes with the next receiver log; the speeds align the two clocks."
          : "Optional: candump, ASC or BLF of the same drive, for charge, battery temperature, power, pedal and wheel spin."}
      </span>
    </div>
  );
}

function FileChoice(props: {
  label: string;
  add: string;
  file?: File;
  accept: string;
  choose: (file: File | undefined) => void;
}) {
  const { label, add, file, accept, choose } = props;
  const input = useRef<HTMLInputElement>(null);
  return (
    <>
      {file && (
        <span>
          {label} <strong>{file.name}</strong>
        </span>
      )}
      <Button
        size="small"
        aria-label={file ? `Remove ${label} ${file.name}` : undefined}
        onClick={() => (file ? choose(undefined) : input.current?.click())}
      >
        {file ? "Remove" : add}
      </Button>
      <input
        ref={input}
        type="file"
        hidden
        accept={accept}
        aria-label={label}
        onChange={(event) => {
          choose(event.target.files?.[0]);
          event.target.value = "";
        }}
      />
    </>
  );
}
