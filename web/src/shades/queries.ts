import { useQuery } from "@tanstack/react-query";
import { type Schemas, client, unwrap } from "../api/client";
import { keys } from "../api/keys";

export type Shade = Schemas["ShadeOut"];

/** How the composites in stock look. */
export function useShades() {
  return useQuery({ queryKey: keys.shades, queryFn: () => unwrap(client.GET("/api/shades")) });
}
