import { type QueryClient, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { type Schemas, client, unwrap } from "../api/client";
import { allOfDrafts, keys } from "../api/keys";

export type Stock = Schemas["StockOut"];
export type Item = Schemas["ItemOut"];
export type Kind = Schemas["KindOut"];
export type Field = Schemas["FieldSpec"];
export type Row = Schemas["StockedIn"];
export type Package = Schemas["PackageOut"];

export function useStock() {
  return useQuery({
    queryKey: keys.stock,
    queryFn: () => unwrap(client.GET("/api/stock")),
    refetchOnMount: "always",
  });
}

/** What comes into stock, or leaves it, changes plans and what Today says is missing. */
export function useKeepRows() {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (rows: Row[]) => unwrap(client.POST("/api/stock", { body: { rows } })),
    onSuccess: (stock) => {
      queries.setQueryData(keys.stock, stock);
      forgetWhatRestsOnStock(queries);
    },
  });
}

export function forgetWhatRestsOnStock(queries: QueryClient) {
  for (const queryKey of [keys.today, keys.restorations, keys.materials, keys.lights])
    void queries.invalidateQueries({ queryKey, refetchType: "none" });
  for (const queryKey of allOfDrafts) queries.removeQueries({ queryKey });
}

/** How a composite looks by itself, and keeping what was measured or told of it. */
export function useLooks(itemId: number) {
  const path = { item_id: itemId };
  const queries = useQueryClient();
  const looks = useQuery({
    queryKey: keys.looks(itemId),
    queryFn: () => unwrap(client.GET("/api/stock/{item_id}/color", { params: { path } })),
  });
  const onSuccess = (now: Schemas["ColorOut"]) => {
    queries.setQueryData(keys.looks(itemId), now);
    void queries.invalidateQueries({ queryKey: keys.shades });
    forgetWhatRestsOnStock(queries);
  };
  const keepSpectra = useMutation({
    mutationFn: (body: Schemas["SpectraIn"]) =>
      unwrap(client.PUT("/api/stock/{item_id}/color", { params: { path }, body })),
    onSuccess,
  });
  const keepOptics = useMutation({
    mutationFn: (body: Schemas["OpticsIn"]) =>
      unwrap(client.PUT("/api/stock/{item_id}/optics", { params: { path }, body })),
    onSuccess,
  });
  return { color: looks.data?.color, isKnown: looks.isSuccess, keepSpectra, keepOptics };
}

export function useReadStockFile() {
  return useMutation({
    mutationFn: (text: string) => unwrap(client.POST("/api/stock-file", { body: { text } })),
  });
}

export function useReadPackage() {
  return useMutation({
    mutationFn: (text: string) => unwrap(client.POST("/api/packages", { body: { text } })),
  });
}

/** Has the simulated reader read a package. */
export function useHoldPackage() {
  return useMutation({
    mutationFn: (body: Schemas["HeldIn"]) =>
      unwrap(client.POST("/api/packages/simulated", { body })),
  });
}
