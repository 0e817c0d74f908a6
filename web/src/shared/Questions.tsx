import { Alert, Button } from "antd";
import { useEffect } from "react";

import type { Question } from "./useQuestions";

interface Props {
  questions: readonly Question[];
  /** Takes what was probably meant. */
  accept: (field: string, value: number) => void;
}

/** What looks like a slip, with what was probably meant one key away; saving it as it is stays possible. */
export function Questions({ questions, accept }: Props) {
  const first = questions.find((each) => each.suggestion !== null);
  useEffect(() => {
    if (!first) return;
    function onKey(event: KeyboardEvent) {
      if (!first || first.suggestion === null || !event.altKey || event.code !== "KeyY") return;
      event.preventDefault();
      accept(first.field, first.suggestion);
    }
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, [first, accept]);
  return questions.map((each) => (
    <Alert
      key={each.field}
      type="warning"
      className="below"
      role="status"
      title={each.sentence}
      action={
        each.suggestion !== null && (
          <Button
            size="small"
            onClick={() => each.suggestion !== null && accept(each.field, each.suggestion)}
          >
            Yes{each === first && <kbd> Alt Y</kbd>}
          </Button>
        )
      }
    />
  ));
}
