import { Alert } from "antd";
import { useMutation, useQueryClient } from "@tanstack/react-query";

import { api, body } from "../../api/client";
import { AskDay } from "./AskDay";
import type { Run } from "./queries";

/** A run of a log without a date: it counts nowhere until its day is given. */
export function Undated({ run }: { run: Run }) {
  const client = useQueryClient();
  const date = useMutation({
    mutationFn: async (day: string) =>
      body(await api.POST("/api/logs/{id}/date/", { params: { path: { id: run.log } }, body: { day } })),
    onSuccess: () => client.invalidateQueries(),
  });
  if (run.date_known) return null;
  return (
    <section className="sheet" aria-label="No date">
      <p className="flag caution">
        <strong>No date:</strong> the log does not say which day this run was driven, so comparisons leave it
        out. Which day was it?
      </p>
      <AskDay done={(day) => date.mutate(day)} busy={date.isPending} />
      {date.error && <Alert type="error" title={date.error.message} />}
    </section>
  );
}
