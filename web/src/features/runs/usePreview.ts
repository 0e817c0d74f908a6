import { keepPreviousData, useQuery } from "@tanstack/react-query";

import { api, body, type Schemas } from "../../api/client";

/** What pasted rows would record; asked again whenever they change. */
export function usePreview(asked: Schemas["PastedRequest"]) {
  return useQuery({
    queryKey: ["pasted", asked],
    queryFn: async () => body(await api.POST("/api/v1/runs/conditions/", { body: asked })),
    enabled: asked.text.trim() !== "" && asked.runs.length > 0,
    placeholderData: asked.text.trim() === "" ? undefined : keepPreviousData,
  });
}
