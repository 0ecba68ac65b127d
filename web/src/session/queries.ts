import { type QueryClient, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { type Schemas, client, unwrap } from "../api/client";
import { keys } from "../api/keys";
import { forgetAllKept, keepFor } from "../shell/kept";

/** Who is signed in. */
export function useSession() {
  return useQuery({
    queryKey: keys.session,
    queryFn: () => unwrap(client.GET("/api/session")),
    staleTime: Infinity,
  });
}

/** Takes up the session of whoever has signed in. */
function enter(queries: QueryClient, session: Schemas["SessionOut"]) {
  keepFor(session.user?.username ?? "");
  queries.setQueryData(keys.session, session);
}

export function useSignIn() {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (body: { username: string; password: string }) =>
      unwrap(client.POST("/api/session", { body })),
    onSuccess: (session) => enter(queries, session),
  });
}

export function useSetUp() {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (body: Schemas["SetUpIn"]) => unwrap(client.POST("/api/set-up", { body })),
    onSuccess: (session) => enter(queries, session),
  });
}

/** Whose password a link sets. */
export function useLink(secret: string) {
  return useQuery({
    queryKey: keys.link(secret),
    queryFn: () => unwrap(client.GET("/api/links/{secret}", { params: { path: { secret } } })),
    retry: false,
  });
}

export function useTakeLink(secret: string) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (password: string) =>
      unwrap(
        client.POST("/api/links/{secret}", { params: { path: { secret } }, body: { password } }),
      ),
    onSuccess: (session) => enter(queries, session),
  });
}

/** Sets what somebody prefers. */
export function useSetOwn() {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (body: Schemas["OwnIn"]) => unwrap(client.PATCH("/api/own", { body })),
    onSuccess: (session) => {
      queries.setQueryData(keys.session, session);
      // Teeth are named anew wherever they stand.
      queries.removeQueries({ predicate: (query) => query.queryKey[0] !== keys.session[0] });
    },
  });
}

export function useSetPassword() {
  return useMutation({
    mutationFn: (body: Schemas["OwnPasswordIn"]) =>
      unwrap(client.POST("/api/own/password", { body })),
  });
}

export function useSignOut() {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: () => unwrap(client.DELETE("/api/session")),
    onSuccess: () => {
      queries.clear();
      forgetAllKept();
      window.location.assign("/");
    },
  });
}
