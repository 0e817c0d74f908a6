import { Button, Modal } from "antd";
import { useState } from "react";

import { DataTable } from "../../shared/DataTable";
import { DeleteButton } from "../../shared/DeleteButton";
import type { Schemas } from "../../api/client";
import { Nothing } from "../../shared/States";
import { useDelete } from "../../shared/useDelete";
import { useSession } from "../accounts/session";
import { useCorrectLayout, useTableLayouts } from "./logs";
import { MEANINGS, NameColumns } from "./NameColumns";

type TableLayout = Schemas["TableLayout"];

const WORDS = new Map<string, string>(MEANINGS);

/** Columns that somebody named while importing a table, and how the next one is read. */
export function TableLayouts() {
  const layouts = useTableLayouts().data ?? [];
  const { person } = useSession();
  if (layouts.length === 0)
    return (
      <Nothing title="No columns were named yet">
        <p>A table whose headings nobody knows asks for them when it is imported.</p>
      </Nothing>
    );
  return (
    <section className="sheet" aria-label="Named columns">
      <DataTable
        rows={layouts}
        rowKey={(layout) => layout.id}
        columns={[
          {
            title: "Columns of a table",
            wrap: true,
            value: (layout) =>
              used(layout)
                .map((column) => `${column.heading}: ${WORDS.get(column.meaning) ?? column.meaning}`)
                .join("; "),
          },
          { title: "Named by", value: (layout) => layout.named_by },
          { title: "", value: (layout) => person?.may_write && <Mend layout={layout} /> },
        ]}
      />
    </section>
  );
}

function Mend({ layout }: { layout: TableLayout }) {
  const [open, setOpen] = useState(false);
  const save = useCorrectLayout(layout.id);
  const remove = useDelete("/api/v1/table-layouts/{id}/", layout.id);
  const headings = layout.columns.map((column) => column.heading);
  const name = headings.join(", ");
  return (
    <span className="row one-line tight">
      <Button size="small" onClick={() => setOpen(true)} aria-label={`Edit columns ${name}`}>
        Edit
      </Button>
      <DeleteButton
        small
        name={`columns ${name}`}
        note="The next table with these columns asks again. Logs that were read stay."
        remove={remove}
      />
      <Modal
        title="Named columns"
        open={open}
        onCancel={() => setOpen(false)}
        footer={null}
        destroyOnHidden
        width={760}
      >
        {save.error && <p className="flag void">{save.error.message}</p>}
        <NameColumns
          headings={headings}
          first={Object.fromEntries(used(layout).map(({ heading, meaning }) => [heading, meaning]))}
          submit="Save"
          done={(chosen) =>
            save.mutate(
              {
                columns: headings.map((heading) => ({ heading, meaning: chosen[heading] ?? "" })),
                revision: layout.revision,
              },
              { onSuccess: () => setOpen(false) },
            )
          }
        />
        <p className="quiet">
          The next table is read this way. Delete a log that was read wrong, and import it again.
        </p>
      </Modal>
    </span>
  );
}

function used(layout: TableLayout) {
  return layout.columns.flatMap(({ heading, meaning }) => (meaning ? [{ heading, meaning }] : []));
}
