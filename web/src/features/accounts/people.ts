import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";

import { api, body, type Schemas } from "../../api/client";

export type Person = Schemas["PersonRow"];
export const ROLES: Schemas["Role"][] = ["reader", "tester", "administrator"];

const PEOPLE = ["people"];
const LINKS = ["invitations"];

export function usePeople() {
  return useQuery({
    queryKey: PEOPLE,
    queryFn: async () =>
      body(await api.GET("/api/v1/people/", { params: { query: { page_size: 500 } } })).results,
  });
}

export function useInvitations() {
  return useQuery({
    queryKey: LINKS,
    queryFn: async () => body(await api.GET("/api/v1/invitations/")).results,
  });
}

/** What administrators do with people; afterwards the lists are read again. */
export function usePeopleChanges() {
  const client = useQueryClient();
  const settled = {
    onSuccess: async () => {
      await client.invalidateQueries({ queryKey: PEOPLE });
      await client.invalidateQueries({ queryKey: LINKS });
    },
  };
  return {
    change: useMutation({
      mutationFn: async ({ id, ...values }: { id: number } & Schemas["PatchedPersonRowRequest"]) =>
        body(await api.PATCH("/api/v1/people/{id}/", { params: { path: { id } }, body: values })),
      ...settled,
    }),
    invite: useMutation({
      mutationFn: async (values: Schemas["InvitationRequest"]) =>
        body(await api.POST("/api/v1/invitations/", { body: values })),
      ...settled,
    }),
    takeBack: useMutation({
      mutationFn: (id: number) => api.DELETE("/api/v1/invitations/{id}/", { params: { path: { id } } }),
      ...settled,
    }),
    renewPassword: useMutation({
      mutationFn: async (id: number) =>
        body(await api.POST("/api/v1/people/{id}/password-link/", { params: { path: { id } } })),
      ...settled,
    }),
    endSessions: useMutation({
      mutationFn: (id: number) => api.POST("/api/v1/people/{id}/end-sessions/", { params: { path: { id } } }),
      ...settled,
    }),
    secondFactorOff: useMutation({
      mutationFn: (id: number) =>
        api.POST("/api/v1/people/{id}/second-factor-off/", { params: { path: { id } } }),
      ...settled,
    }),
  };
}

/** The address that somebody opens: what stands after # never reaches a server's log. */
export function addressOf({ secret }: Schemas["NewLink"]): string {
  return `${window.location.origin}/join#${secret}`;
}
