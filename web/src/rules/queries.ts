import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { type Schemas, client, unwrap } from "../api/client";
import { allOfDrafts, keys } from "../api/keys";

export type Rule = Schemas["RuleOut"];
export type Dispute = Schemas["DisputeOut"];
export type Change = Schemas["ChangeIn"];

export function useRules() {
  return useQuery({
    queryKey: keys.rules,
    queryFn: () => unwrap(client.GET("/api/rules")),
    refetchOnMount: "always",
  });
}

/** What changes a rule changes every plan and what is said of lamps. */
export function useChangeRules() {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (changes: Change[]) => unwrap(client.POST("/api/rules", { body: { changes } })),
    onSuccess: (rules) => {
      queries.setQueryData(keys.rules, rules);
      void queries.invalidateQueries({
        predicate: ({ queryKey }) =>
          queryKey[0] !== keys.rules[0] && queryKey[0] !== keys.session[0],
        refetchType: "none",
      });
      // Plans that were reckoned before must not be answered from memory.
      for (const queryKey of allOfDrafts) queries.removeQueries({ queryKey });
    },
  });
}

export function useReadRulesFile() {
  return useMutation({
    mutationFn: (text: string) => unwrap(client.POST("/api/rules-file", { body: { text } })),
  });
}
