import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef } from "react";

import { api, body } from "../../api/client";

const LOOK_MS = 5_000;

/** Says how many runs are being timed again; once they are, what rests on them is read again. */
export function Retiming() {
  const client = useQueryClient();
  const state = useQuery({
    queryKey: ["retiming"],
    queryFn: async () => body(await api.GET("/api/v1/runs/retiming/")),
    refetchInterval: LOOK_MS,
  });
  const waiting = state.data?.waiting ?? 0;
  const before = useRef(0);
  useEffect(() => {
    if (before.current > 0 && waiting === 0) {
      for (const key of ["run", "runs", "comparison", "curve"]) {
        void client.invalidateQueries({ queryKey: [key] });
      }
    }
    before.current = waiting;
  }, [client, waiting]);
  if (waiting === 0) return null;
  return (
    <p className="notice" role="status">
      {waiting === 1
        ? "1 run is being timed again: its car, setup, course or conditions changed."
        : `${waiting} runs are being timed again: their car, setup, course or conditions changed.`}
    </p>
  );
}
