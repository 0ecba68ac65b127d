import type { Case } from "../api/client";
import type { CasePath } from "./paths";

type Part = Case["preparation"]["parts"][number];
type Cover = Extract<Part, { kind: "cusp_reduction" }>;
export type Cusp = Cover["cusps"][number];

/** What a cover is cut to at the tips until somebody says otherwise. */
const TIP_MM = 2;

export function coverOf(data: Case): Cover | undefined {
  return data.preparation.parts.find((part) => part.kind === "cusp_reduction");
}

/** Returns the parts of a case with these cusps taken down, none where there are none, and the paths of what
 *  nobody has measured yet. */
export function withCover(data: Case, cusps: Cusp[]): { parts: Part[]; estimated?: CasePath[] } {
  const { parts } = data.preparation;
  const cover = coverOf(data);
  if (cusps.length === 0) return { parts: parts.filter((part) => part !== cover) };
  if (cover) return { parts: parts.map((part) => (part === cover ? { ...cover, cusps } : part)) };
  const added: Cover = { kind: "cusp_reduction", cusps, tip_mm: TIP_MM };
  return {
    parts: [...parts, added],
    estimated: [`preparation.parts[${parts.length}].tip_mm`],
  };
}
