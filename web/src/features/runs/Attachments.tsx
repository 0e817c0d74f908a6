import { Button } from "antd";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useRef } from "react";

import { api, body, csrfToken, refusal, tellOfAction } from "../../api/client";
import { RenameButton } from "../../shared/RenameButton";
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
        <p className="quiet">None yet. Location data is removed from photographs.</p>
      )}
      <ul className="attached">
        {run.attachments.map((each) => (
          <li key={each.id}>
            <a href={`/api/v1/attachments/${each.id}/file/`} target="_blank" rel="noreferrer">
              {each.media_type.startsWith("image/") && (
                <img src={`/api/v1/attachments/${each.id}/file/`} alt="" loading="lazy" />
              )}
              {each.name}
            </a>{" "}
            {person?.username === each.added_by && (
              <>
                <Rename id={each.id} name={each.name} run={run.id} />{" "}
                <Button
                  size="small"
                  onClick={() => remove.mutate(each.id)}
                  aria-label={`Delete ${each.name}`}
                >
                  Delete
                </Button>
              </>
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

function Rename({ id, name, run }: { id: number; name: string; run: number }) {
  const client = useQueryClient();
  const save = useMutation({
    mutationFn: async ({ name }: { name: string }) =>
      body(await api.PATCH("/api/v1/attachments/{id}/", { params: { path: { id } }, body: { name } })),
    onSuccess: () => client.invalidateQueries({ queryKey: ["run", run] }),
  });
  return <RenameButton field="name" name={name} most={120} save={save} small />;
}

function useAttachments(run: number) {
  const client = useQueryClient();
  const settled = { onSuccess: () => client.invalidateQueries({ queryKey: ["run", run] }) };
  const attach = useMutation({
    mutationFn: async (file: File) => {
      const form = new FormData();
      form.append("run", String(run));
      form.append("file", file);
      const answer = await fetch("/api/v1/attachments/", {
        method: "POST",
        body: form,
        headers: { "X-CSRFToken": csrfToken() },
      });
      tellOfAction(answer.headers);
      if (!answer.ok) throw refusal(answer.status, await answer.json().catch(() => null));
    },
    ...settled,
  });
  const remove = useMutation({
    mutationFn: (id: number) => api.DELETE("/api/v1/attachments/{id}/", { params: { path: { id } } }),
    ...settled,
  });
  return { attach, remove };
}
