import { keepPreviousData, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { type Schemas, client, unwrap } from "../api/client";
import { keys } from "../api/keys";

export type Person = Schemas["PersonOut"];
export type Practice = Schemas["PracticeOut"];

export function usePractice() {
  return useQuery({
    queryKey: keys.practice,
    queryFn: () => unwrap(client.GET("/api/practice")),
  });
}

export function useChangePractice() {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (body: Schemas["PracticeChange"]) =>
      unwrap(client.PATCH("/api/practice", { body })),
    // Its name and its chairs stand in many places.
    onSuccess: () => void queries.invalidateQueries(),
  });
}

export function usePeople() {
  return useQuery({ queryKey: keys.people, queryFn: () => unwrap(client.GET("/api/people")) });
}

function usePeopleMutation<T, R>(call: (told: T) => Promise<R>) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: call,
    onSuccess: () => void queries.invalidateQueries({ queryKey: keys.people }),
  });
}

export function useAddPerson() {
  return usePeopleMutation((body: Schemas["PersonIn"]) =>
    unwrap(client.POST("/api/people", { body })),
  );
}

export function useChangePerson(id: number) {
  return usePeopleMutation((body: Schemas["PersonChange"]) =>
    unwrap(client.PATCH("/api/people/{person_id}", { params: { path: { person_id: id } }, body })),
  );
}

export function useIssueLink(id: number) {
  return usePeopleMutation(() =>
    unwrap(client.POST("/api/people/{person_id}/link", { params: { path: { person_id: id } } })),
  );
}

export interface AuditAsked {
  who: string;
  action: string;
  since: string;
  until: string;
  page: number;
}

/** Returns what is asked of the trail, without what is not. */
export function asked(told: AuditAsked): Record<string, string | number> {
  return Object.fromEntries(Object.entries(told).filter(([, value]) => value !== ""));
}

export function useAudit(told: AuditAsked) {
  return useQuery({
    queryKey: keys.audit(told),
    queryFn: () => unwrap(client.GET("/api/audit", { params: { query: asked(told) } })),
    placeholderData: keepPreviousData,
  });
}
