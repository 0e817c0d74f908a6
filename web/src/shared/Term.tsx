import { Popover } from "antd";
import { Link } from "react-router";

import { meaningOf } from "./glossary";

/** A `?` beside a word of the trade: what it means, and where all of them are. */
export function Term({ word }: { word: string }) {
  return (
    <Popover
      trigger="click"
      title={word}
      content={
        <div className="term-meaning">
          {meaningOf(word)}. <Link to="/help#glossary">All words</Link>
        </div>
      }
    >
      <button type="button" className="term no-print" aria-label={`What is ${word}?`}>
        ?
      </button>
    </Popover>
  );
}
