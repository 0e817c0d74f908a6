import { Button } from "antd";
import { useRef } from "react";

import type { BusFiles } from "./useImport";

const BUS_FILES = ".log,.asc,.blf,.candump,.txt";

/** The CAN log that goes with the receiver log to come, and its DBC where it is not Coombe's own. */
export function BusChooser({ chosen, choose }: { chosen: BusFiles; choose: (files: BusFiles) => void }) {
  return (
    <div className="bus-chooser">
      <FileChoice
        label="CAN log"
        add="Add a CAN log"
        file={chosen.bus}
        accept={BUS_FILES}
        choose={(bus) => choose({ ...chosen, bus })}
      />
      {chosen.bus && (
        <FileChoice
          label="DBC"
          add="Add its DBC"
          file={chosen.dbc}
          accept=".dbc"
          choose={(dbc) => choose({ ...chosen, dbc })}
        />
      )}
      <span className="quiet">
        {chosen.bus
          ? "Goes with the next receiver log; the speed brings both clocks together."
          : "Optional: candump, ASC or BLF of the same drive, for charge, pack temperature, power, pedal and wheel spin."}
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
