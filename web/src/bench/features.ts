import type { Case, Schemas } from "../api/client";
import type { CasePath } from "./paths";

type Part = Case["preparation"]["parts"][number];

/** Returns the parts of a case with a feature cut, or without it where it was, and the paths of what nobody has
 *  measured yet. */
export function withToggled(
  data: Case,
  { part, cut_at }: Schemas["Choice"],
): { parts: Part[]; estimated?: CasePath[] } {
  const { parts } = data.preparation;
  if (cut_at != null) return { parts: parts.filter((_, at) => at !== cut_at) };
  const sizes = Object.keys(part ?? {}).filter((name) => name.endsWith("_mm"));
  return {
    parts: [...parts, part as Part],
    estimated: sizes.map((name) => `preparation.parts[${parts.length}].${name}` as CasePath),
  };
}

/** Returns the parts without what was cut at cusps that are no longer covered: there is no floor for it. */
export function withoutStrays(parts: Part[]): Part[] {
  const cover = parts.find((part) => part.kind === "cusp_reduction");
  const floors: string[] = parts.flatMap((part) =>
    part.kind === "proximal_box" ? [part.side] : [],
  );
  floors.push(...(cover?.cusps ?? []));
  return parts.filter((part) => {
    if (part.kind === "shoulder") return cover !== undefined;
    return (part.kind !== "slot" && part.kind !== "pin_hole") || floors.includes(part.at);
  });
}
