import { Alert, Button, Popconfirm } from "antd";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";

import { api, body } from "../../api/client";
import { DataTable } from "../../shared/DataTable";
import { dayAndTime } from "../../shared/dates";
import { useSession } from "../accounts/session";

function useUnstored() {
  return useQuery({
    queryKey: ["recordings"],
    queryFn: async () => body(await api.GET("/api/v1/recordings/")).results,
    refetchInterval: 5_000,
  });
}

/** Recordings that could not be stored: their bytes are kept, with why, until they are. */
export function Unstored() {
  const unstored = useUnstored();
  const client = useQueryClient();
  const { person } = useSession();
  const refresh = () => client.invalidateQueries({ queryKey: ["recordings"] });
  const retry = useMutation({
    mutationFn: async (id: number) => {
      await api.POST("/api/v1/recordings/{id}/retry/", { params: { path: { id } } });
    },
    onSuccess: refresh,
  });
  const discard = useMutation({
    mutationFn: async (id: number) => {
      await api.DELETE("/api/v1/recordings/{id}/", { params: { path: { id } } });
    },
    onSuccess: refresh,
  });
  const rows = unstored.data ?? [];
  const error = retry.error ?? discard.error;
  if (rows.length === 0) return null;
  const failed = rows.filter((row) => row.trouble).length;
  return (
    <section className="sheet" aria-label="Not stored">
      <h2>{failed ? counted(failed) : "Being stored"}</h2>
      {error && <Alert type="error" title={error.message} className="below" />}
      <DataTable
        rows={rows}
        rowKey={(row) => row.id}
        columns={[
          { title: "Recorder", wrap: true, value: (row) => row.name },
          { title: "Began", value: (row) => dayAndTime(row.began_at) },
          { title: "Reason", wrap: true, value: (row) => row.trouble || "being stored" },
          {
            title: "",
            value: (row) =>
              person?.may_write &&
              row.trouble && (
                <>
                  <Button size="small" onClick={() => retry.mutate(row.id)}>
                    Try again
                  </Button>{" "}
                  <Popconfirm
                    title="Stop trying to store this recording? Its files stay on the server."
                    okText="Give up"
                    onConfirm={() => discard.mutate(row.id)}
                  >
                    <Button size="small">Give up</Button>
                  </Popconfirm>
                </>
              ),
          },
        ]}
      />
    </section>
  );
}

function counted(failed: number): string {
  return `${failed} ${failed === 1 ? "recording" : "recordings"} could not be stored`;
}
