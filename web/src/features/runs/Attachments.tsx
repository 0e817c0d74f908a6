import { Button } from "antd";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useRef } from "react";

import { api, csrfToken, refusal } from "../../api/client";
import { useSession } from "../accounts/session";
import type { Run } from "./queries";

/** Photographs and PDFs of a run. The server strips them of place and camera. */
export function Attachments({ run }: { run: Run }) {
  const { person } = useSession();
  const { attach, remove } = useAttachments(run.id);
  const chooser = useRef<HTMLInputElement>(null);
  const failed = attach.error ?? remove.error;
  if (!run.attachments.length && !person?.may_write) return null;
  return (
    <section className="sheet" aria-label="Attachments">
      <h2>Photographs and PDFs</h2>
      {run.attachments.length === 0 && (
        <p className="quiet">None. Where they were taken is left out of them.</p>
      )}
      <ul className="attached">
        {run.attachments.map((each) => (
          <li key={each.id}>
            <a href={`/api/attachments/${each.id}/file/`} target="_blank" rel="noreferrer">
              {each.media_type.startsWith("image/") && (
                <img src={`/api/attachments/${each.id}/file/`} alt="" loading="lazy" />
              )}
              {each.name}
            </a>{" "}
            {person?.username === each.added_by && (
              <Button size="small" onClick={() => remove.mutate(each.id)} aria-label={`Remove ${each.name}`}>
                Remove
              </Button>
            )}
          </li>
        ))}
      </ul>
      {failed && <p className="flag void">{failed.message}</p>}
      {person?.may_write && (
        <>
          <Button onClick={() => chooser.current?.click()} loading={attach.isPending}>
            Attach a photograph or PDF
          </Button>
          <input
            ref={chooser}
            type="file"
            hidden
            accept="image/jpeg,image/png,image/webp,application/pdf"
            aria-label="Photograph or PDF"
            onChange={(event) => {
              const file = event.target.files?.[0];
              if (file) attach.mutate(file);
              event.target.value = "";
            }}
          />
        </>
      )}
    </section>
  );
}

function useAttachments(run: number) {
  const client = useQueryClient();
  const settled = { onSuccess: () => client.invalidateQueries({ queryKey: ["run", run] }) };
  const attach = useMutation({
    mutationFn: async (file: File) => {
      const form = new FormData();
      form.append("file", file);
      const answer = await fetch(`/api/attachments/to-run/${run}/`, {
        method: "POST",
        body: form,
        headers: { "X-CSRFToken": csrfToken() },
      });
      if (!answer.ok) throw refusal(answer.status, await answer.json().catch(() => null));
    },
    ...settled,
  });
  const remove = useMutation({
    mutationFn: (id: number) => api.DELETE("/api/attachments/{id}/", { params: { path: { id } } }),
    ...settled,
  });
  return { attach, remove };
}
