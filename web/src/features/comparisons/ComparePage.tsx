import { Alert, Button, Input } from "antd";
import { useState } from "react";
import { useNavigate } from "react-router";

import { useTitle } from "../../shared/useTitle";
import { QuantityInput } from "../../shared/QuantityInput";
import { Failed, Loading } from "../../shared/States";
import { useSession } from "../accounts/session";
import { GroupChooser } from "./GroupChooser";
import { isReady, useAsk, type Ask } from "./ask";
import { AskBar } from "./AskBar";
import { usePreview, useSaveComparison } from "./queries";
import { ResultSheet } from "./ResultSheet";

export function ComparePage() {
  useTitle("Compare");
  const [ask, change] = useAsk();
  const preview = usePreview(ask);
  const ready = isReady(ask); // the chooser moves below the answer then, and keeps its filters by its key
  return (
    <>
      <div className="page-head">
        <h1>Compare</h1>
      </div>
      <AskBar ask={ask} change={change} />
      {!ready && <GroupChooser key="chooser" ask={ask} change={change} />}
      {preview.error && <Failed error={preview.error} />}
      {ready && preview.isPending && !preview.error && <Loading what="the comparison" />}
      {ready && preview.data && !preview.error && (
        <>
          <Save ask={ask} change={change} />
          <ResultSheet result={preview.data} ask={ask} change={change} />
        </>
      )}
      {ready && <GroupChooser key="chooser" ask={ask} change={change} />}
    </>
  );
}

function Save({ ask, change }: { ask: Ask; change: (changes: Partial<Ask>) => void }) {
  const { person } = useSession();
  const save = useSaveComparison();
  const navigate = useNavigate();
  const [title, setTitle] = useState("");
  return (
    <form
      className="sheet no-print save-line"
      onSubmit={(event) => {
        event.preventDefault();
        save.mutate({ ...ask, title }, { onSuccess: (saved) => void navigate(`/compare/${saved.id}`) });
      }}
    >
      <label>
        Difference that matters{" "}
        <QuantityInput
          kind={ask.quantity === "distance" ? "distance" : "time"}
          step={0.01}
          value={ask.difference_that_matters ?? null}
          onChange={(least) => change({ difference_that_matters: least ?? null })}
        />
      </label>
      {person?.may_write && (
        <>
          <Input
            aria-label="Title"
            placeholder="Title, such as: Did the update change 0-60?"
            className="grow"
            value={title}
            maxLength={160}
            onChange={(event) => setTitle(event.target.value)}
          />
          <Button htmlType="submit" disabled={!title.trim()} loading={save.isPending}>
            Save comparison
          </Button>
        </>
      )}
      {save.error && <Alert type="error" title={save.error.message} />}
    </form>
  );
}
