import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { type Schemas, client, unwrap } from "../api/client";
import { keys } from "../api/keys";
import { forgetWhatRestsOnStock } from "../stock/queries";

export type Shade = Schemas["ShadeOut"];

/** How the composites in stock look. */
export function useShades() {
  return useQuery({ queryKey: keys.shades, queryFn: () => unwrap(client.GET("/api/shades")) });
}

/** Moves what is known of a composite by what its reviews teach. */
export function usePutRight(itemId: number) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: () =>
      unwrap(
        client.POST("/api/stock/{item_id}/color/reviews", {
          params: { path: { item_id: itemId } },
        }),
      ),
    onSuccess: (now) => {
      queries.setQueryData(keys.looks(itemId), now);
      void queries.invalidateQueries({ queryKey: keys.shades });
      forgetWhatRestsOnStock(queries);
    },
  });
}
