import { Alert, Button, Input } from "antd";
import { Suspense, useState } from "react";
import { useNavigate, useSearchParams } from "react-router";

import { Failed, Loading } from "../../shared/States";
import { usePreferences } from "../../shared/preferences";
import { useSession } from "../accounts/session";
import { headline } from "../runs/measures";
import { ArmChooser } from "./ArmChooser";
import { AskBar } from "./AskBar";
import { usePreview, useSaveComparison, type Ask } from "./queries";
import { VerdictSheet } from "./VerdictSheet";

/** What is asked lives in the address, so that the answer has a link before it is saved. */
function useAsk(): [Ask, (changes: Partial<Ask>) => void] {
  const [search, setSearch] = useSearchParams();
  const { family } = usePreferences();
  const ids = (name: string) => (search.get(name) ?? "").split(",").filter(Boolean).map(Number);
  const ask: Ask = {
    measure: search.get("measure") ?? headline("standing", family),
    clock: (search.get("clock") ?? "rollout") as Ask["clock"],
    quantity: (search.get("quantity") ?? "time") as NonNullable<Ask["quantity"]>,
    before: ids("before"),
    after: ids("after"),
  };
  function change(changes: Partial<Ask>) {
    const next = { ...ask, ...changes };
    setSearch(
      {
        ...next,
        quantity: next.quantity ?? "time",
        before: next.before.join(","),
        after: next.after.join(","),
      },
      { replace: true },
    );
  }
  return [ask, change];
}

export function ComparePage() {
  const [ask, change] = useAsk();
  const preview = usePreview(ask);
  const ready = ask.before.length > 0 && ask.after.length > 0;
  return (
    <>
      <div className="page-head">
        <h1>Compare two arms</h1>
      </div>
      <AskBar ask={ask} change={change} />
      {preview.error && <Failed error={preview.error} />}
      {ready && preview.isPending && !preview.error && <Loading what="the comparison" />}
      {ready && preview.data && !preview.error && (
        <>
          <Save ask={ask} />
          <Suspense fallback={<Loading what="the charts" />}>
            <VerdictSheet result={preview.data} />
          </Suspense>
        </>
      )}
      <ArmChooser ask={ask} change={change} />
    </>
  );
}

function Save({ ask }: { ask: Ask }) {
  const { person } = useSession();
  const save = useSaveComparison();
  const navigate = useNavigate();
  const [title, setTitle] = useState("");
  if (!person?.may_write) return null;
  return (
    <form
      className="sheet no-print"
      style={{ display: "flex", gap: 10, flexWrap: "wrap" }}
      onSubmit={(event) => {
        event.preventDefault();
        save.mutate({ ...ask, title }, { onSuccess: (saved) => void navigate(`/compare/${saved.id}`) });
      }}
    >
      <Input
        aria-label="The question"
        placeholder="The question, such as: did the update change 0-60?"
        style={{ flex: "1 1 260px" }}
        value={title}
        maxLength={160}
        onChange={(event) => setTitle(event.target.value)}
      />
      <Button htmlType="submit" disabled={!title.trim()} loading={save.isPending}>
        Save the comparison
      </Button>
      {save.error && <Alert type="error" title={save.error.message} />}
    </form>
  );
}
