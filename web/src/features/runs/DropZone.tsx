import { Button } from "antd";
import { useRef, useState, type DragEvent } from "react";

import { filesOf } from "../../shared/dropped";

interface Props {
  take: (files: File[]) => void;
  /** Which logs these are, where there is more than one place for them. */
  of?: string;
  disabled?: boolean;
  /** What else is taken. */
  also?: string;
}

/** Where logs are dropped, or chosen as files or as a folder. */
export function DropZone({ take, of = "", disabled = false, also = "" }: Props) {
  const input = useRef<HTMLInputElement>(null);
  const folder = useRef<HTMLInputElement>(null);
  const [over, setOver] = useState(false);
  function onDrop(event: DragEvent) {
    event.preventDefault();
    event.stopPropagation(); // or the whole page would take them too
    setOver(false);
    if (!disabled) void filesOf(event.dataTransfer).then(take);
  }
  return (
    <>
      <button
        type="button"
        disabled={disabled}
        className={over ? "drop over" : "drop"}
        onClick={() => input.current?.click()}
        onDragOver={(event) => {
          event.preventDefault();
          setOver(true);
        }}
        onDragLeave={() => setOver(false)}
        onDrop={onDrop}
      >
        <strong>Drop {of && `${of} `}logs or folders here, or choose files</strong>
        <br />
        <span className="quiet">
          NMEA, UBX, GPX, positioning JSON, Parquet or CSV, up to 200 MB each. One log may hold many runs.
          {also}
        </span>
      </button>
      <input
        ref={input}
        type="file"
        multiple
        hidden
        aria-label={named("log files", of)}
        onChange={(event) => {
          take([...(event.target.files ?? [])]);
          event.target.value = "";
        }}
      />
      <Button className="above" disabled={disabled} onClick={() => folder.current?.click()}>
        Choose a folder
      </Button>
      <input
        ref={folder}
        type="file"
        hidden
        aria-label={named("folder of logs", of)}
        {...{ webkitdirectory: "" }}
        onChange={(event) => {
          const files = [...(event.target.files ?? [])].filter((file) => !file.name.startsWith("."));
          take(files.sort((a, b) => a.webkitRelativePath.localeCompare(b.webkitRelativePath)));
          event.target.value = "";
        }}
      />
    </>
  );
}

function named(what: string, of: string): string {
  const words = of ? `${of} ${what}` : what;
  return words.charAt(0).toUpperCase() + words.slice(1);
}
