import { useContext, useState, type ReactNode } from "react";

import { Refused } from "./fields";

interface Props {
  title: string;
  /** Of its fields: a refusal of one opens it. */
  names: string[];
  opened?: boolean;
  children: ReactNode;
}

/** Fields of a form that are seldom touched, folded until somebody or a refusal opens them. */
export function Fold({ title, names, opened = false, children }: Props) {
  const refused = useContext(Refused);
  const [open, setOpen] = useState(opened);
  return (
    <details
      className="fold"
      open={open || names.some((name) => name in refused)}
      onToggle={(event) => setOpen(event.currentTarget.open)}
    >
      <summary>{title}</summary>
      <div className="form-grid">{children}</div>
    </details>
  );
}
