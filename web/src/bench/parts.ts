import type { Case, Problem, Schemas } from "../api/client";
import { unitOf } from "../shell/units";
import { type Draft, knownOf, textOf } from "./useDraft";

type Measured = Schemas["Measurement"];

/** The place of the curing light beside the parts of a preparation. */
export const LAMP = "curing light";

/** A part of the preparation with its sizes. */
export interface Part {
  name: string;
  fields: Measured[];
  isWrong: boolean;
}

/** Returns the parts that are measured, in the order in which they are. */
export function partsOf(measurements: readonly Measured[], problems: readonly Problem[]): Part[] {
  const names = [...new Set(measurements.map((field) => field.part))];
  return names.map((name) => {
    const fields = measurements.filter((field) => field.part === name);
    const isWrong = fields.some((field) => problems.some((p) => p.path === field.path));
    return { name, fields, isWrong };
  });
}

/** Returns the part that is at hand: the one that was picked as long as it is there, else the first of which a size was
 * estimated when the Bench was opened, else the first. */
export function partAtHand(parts: readonly Part[], picked: string | null, opened: Case): string {
  if (picked === LAMP || parts.some((part) => part.name === picked)) return picked ?? "";
  const isGuessed = ({ fields }: Part) =>
    fields.some(({ path }) => opened.provenance?.[path] === "estimated");
  return (parts.find(isGuessed) ?? parts[0])?.name ?? "";
}

/** Returns the sizes of a part in one line, lengths in mm; one that is estimated bears a sign for it. */
export function lineOf({ fields }: Part, draft: Draft): string {
  return fields
    .map(({ path, taken, unit }) => {
      const text = textOf(draft, path);
      if (text === "") return taken || "?";
      const isGuess = knownOf(draft, path) === "estimated";
      return `${isGuess ? "~" : ""}${text}${unit === "mm" ? "" : unitOf(unit)}`;
    })
    .join(" · ");
}

/** Returns the part that a path lies in, where it is one that is measured. */
export function partWith(measurements: readonly Measured[], path: string): string | undefined {
  return measurements.find((field) => field.path === path || field.path.startsWith(`${path}.`))
    ?.part;
}
