import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Alert, Button } from "antd";

import { api, body } from "../../api/client";
import { DataTable } from "../../shared/DataTable";
import { dayAndTime } from "../../shared/dates";
import { Failed, Loading } from "../../shared/States";
import { shortBrowser } from "./shortBrowser";

const KEY = ["browsers"];

/** Where one is logged in, with a way to end what was left open. */
export function Browsers() {
  const client = useQueryClient();
  const browsers = useQuery({
    queryKey: KEY,
    queryFn: async () => body(await api.GET("/api/v1/session/browsers/")),
    staleTime: 0,
  });
  const end = useMutation({
    mutationFn: (mark: string) =>
      api.DELETE("/api/v1/session/browsers/{mark}/", { params: { path: { mark } } }),
    onSuccess: () => client.invalidateQueries({ queryKey: KEY }),
  });
  if (browsers.error) return <Failed error={browsers.error} retry={() => void browsers.refetch()} />;
  if (!browsers.data) return <Loading what="your browsers" />;
  return (
    <>
      {end.error && <Alert type="error" title={end.error.message} className="below" />}
      <DataTable
        label="Browsers"
        rows={browsers.data}
        rowKey={(row) => row.id}
        columns={[
          { title: "Browser", wrap: true, value: (row) => shortBrowser(row.browser) },
          { title: "From", value: (row) => row.address || "—" },
          { title: "Since", value: (row) => dayAndTime(row.begun_at) },
          { title: "Last seen", value: (row) => (row.here ? "this one" : dayAndTime(row.seen_at)) },
          {
            title: "",
            value: (row) =>
              !row.here && (
                <Button
                  size="small"
                  aria-label={`Log out ${shortBrowser(row.browser)} from ${row.address}`}
                  onClick={() => end.mutate(row.id)}
                >
                  Log out
                </Button>
              ),
          },
        ]}
      />
      <p className="quiet">Is one not yours? Log it out and change your password.</p>
    </>
  );
}
