import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { type Schemas, client, unwrap } from "../api/client";

export type Shelf = Schemas["ShelfOut"];
export type Item = Schemas["ItemOut"];
export type Kind = Schemas["KindOut"];
export type Field = Schemas["FieldSpec"];
export type Row = Schemas["StockedIn"];
export type Package = Schemas["PackageOut"];

export function useShelf() {
  return useQuery({
    queryKey: ["shelf"],
    queryFn: () => unwrap(client.GET("/api/shelf")),
    refetchOnMount: "always",
  });
}

/** What comes on the shelf, or leaves it, changes plans and what Today says is missing. */
export function useKeepRows() {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (rows: Row[]) => unwrap(client.POST("/api/shelf", { body: { rows } })),
    onSuccess: (shelf) => {
      queries.setQueryData(["shelf"], shelf);
      for (const key of ["today", "restoration", "masses", "lights"])
        void queries.invalidateQueries({ queryKey: [key], refetchType: "none" });
      for (const key of ["preview", "measure-first", "light-lines", "hold-lessons"])
        queries.removeQueries({ queryKey: [key] });
    },
  });
}

export function useReadShelfFile() {
  return useMutation({
    mutationFn: (text: string) => unwrap(client.POST("/api/shelf-file", { body: { text } })),
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
