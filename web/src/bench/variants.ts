import type { Case, Schemas } from "../api/client";
import { withValue } from "./paths";

export type Subject = "school" | "lamp" | "mass";

/** One way to plan a case: the value that it sets, and where. */
export interface Variant {
  name: string;
  path: string;
  value: unknown;
  isOwn: boolean;
  data: Case;
}

export const SCHOOLS: { value: NonNullable<Schemas["School"]["layering"]>; name: string }[] = [
  { value: "wall_first", name: "wall first" },
  { value: "horizontal", name: "horizontal" },
  { value: "oblique", name: "oblique" },
];

/** Returns the ways to plan a case that differ in one thing, the case's own way among them. */
export function variantsOf(
  subject: Subject,
  data: Case,
  lights: readonly Schemas["LightOut"][],
  masses: readonly Schemas["MassOut"][],
): Variant[] {
  const own = {
    school: data.school?.layering ?? "wall_first",
    lamp: data.light.name,
    mass: data.masses.map((m) => m.name).join(),
  };
  const made = (name: string, path: string, value: unknown, isOwn: boolean) => ({
    name,
    path,
    value,
    isOwn,
    data: isOwn ? data : withValue(data, path, value),
  });
  switch (subject) {
    case "school":
      return SCHOOLS.map((s) => made(s.name, "school.layering", s.value, s.value === own.school));
    case "lamp":
      return lights.map((l) => made(l.name, "light", l.case_part, l.name === own.lamp));
    case "mass":
      return masses.map((m) => made(m.name, "masses", [m.case_part], m.name === own.mass));
  }
}
