import { Button, Spin } from "antd";
import type { ReactNode } from "react";

import { ApiError } from "../api/client";

export function Loading({ what }: { what: string }) {
  return (
    <div className="sheet" role="status">
      <Spin size="small" /> <span className="quiet">Reading {what}…</span>
    </div>
  );
}

export function Failed({ error, retry }: { error: unknown; retry?: () => void }) {
  const gone = error instanceof ApiError && error.status === 404;
  return (
    <div className="sheet" role="alert">
      <h2>{gone ? "Not found" : "Something went wrong"}</h2>
      <p>{gone ? "It was deleted, or the address is wrong." : String((error as Error).message)}</p>
      {retry && <Button onClick={retry}>Try again</Button>}
    </div>
  );
}

export function Nothing({ title, children }: { title: string; children: ReactNode }) {
  return (
    <div className="sheet">
      <h2>{title}</h2>
      {children}
    </div>
  );
}
