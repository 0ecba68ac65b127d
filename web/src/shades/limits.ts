import type { Schemas } from "../api/client";

/** Returns up to which difference (dE00) a color is accepted, or not seen, by the practice's rules. */
export function limitOf(
  { rules }: Schemas["CompositeColor"],
  limit: "acceptable" | "perceptible",
): number {
  return rules.find((use) => use.rule === `color.${limit}_de00`)?.value ?? Infinity;
}
