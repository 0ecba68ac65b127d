import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { client, unwrap } from "../api/client";
import { keys } from "../api/keys";

/** Who is signed in. */
export function useSession() {
  return useQuery({
    queryKey: keys.session,
    queryFn: () => unwrap(client.GET("/api/session")),
    staleTime: Infinity,
  });
}

export function useSignIn() {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (body: { username: string; password: string }) =>
      unwrap(client.POST("/api/session", { body })),
    onSuccess: (session) => queries.setQueryData(keys.session, session),
  });
}

export function useSignOut() {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: () => unwrap(client.DELETE("/api/session")),
    onSuccess: () => {
      queries.clear();
      window.location.assign("/");
    },
  });
}
