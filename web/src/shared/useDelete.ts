import { useMutation, useQueryClient } from "@tanstack/react-query";

import { api } from "../api/client";

type Deletable =
  | "/api/v1/attachments/{id}/"
  | "/api/v1/battery-intervals/{id}/"
  | "/api/v1/cars/{id}/"
  | "/api/v1/checklist-items/{id}/"
  | "/api/v1/comparisons/{id}/"
  | "/api/v1/courses/{id}/"
  | "/api/v1/devices/{id}/"
  | "/api/v1/heads-up-runs/{id}/"
  | "/api/v1/logs/{id}/"
  | "/api/v1/manufacturer-claims/{id}/"
  | "/api/v1/own-measures/{id}/"
  | "/api/v1/own-values/{id}/"
  | "/api/v1/plans/{id}/"
  | "/api/v1/receivers/{id}/"
  | "/api/v1/recorders/{id}/"
  | "/api/v1/reports/{id}/"
  | "/api/v1/scheduled-runs/{id}/"
  | "/api/v1/setups/{id}/"
  | "/api/v1/studies/{id}/"
  | "/api/v1/table-layouts/{id}/"
  | "/api/v1/table-views/{id}/"
  | "/api/v1/test-days/{id}/";

/** Deletes one row; whatever shows it, or counts it, is read again, but for its own page. */
export function useDelete(path: Deletable, id: number) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: async () => {
      await api.DELETE(path, { params: { path: { id } } });
    },
    onSuccess: () => client.invalidateQueries({ predicate: (query) => !query.queryKey.includes(id) }),
  });
}
