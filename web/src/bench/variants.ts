import type { Case, Schemas } from "../api/client";
import { withValue } from "./paths";
import { type Ask, LIGHT, TECHNIQUE, lightOf } from "./told";

export type Subject = "technique" | "light" | "composite";

/** One way to plan a case: the value that it sets, and where. */
export interface Variant {
  name: string;
  path: string;
  value: unknown;
  isOwn: boolean;
  data: Case;
}

const COMPOSITES = "restoration.composites";

/** Returns the ways to plan a case that differ in one thing, the case's own way among them. */
export function variantsOf(
  subject: Subject,
  data: Case,
  technique: Ask | undefined,
  lights: readonly Schemas["LightOut"][],
  composites: readonly Schemas["CompositeOut"][],
): Variant[] {
  const { restoration } = data;
  const own = {
    technique:
      ("technique" in restoration && restoration.technique) || technique?.options?.[0]?.value,
    light: lightOf(data)?.name,
    composite: "composites" in restoration ? restoration.composites.map((m) => m.name).join() : "",
  };
  const made = (name: string, path: string, value: unknown, isOwn: boolean) => ({
    name,
    path,
    value,
    isOwn,
    data: isOwn ? data : withValue(data, path, value),
  });
  switch (subject) {
    case "technique":
      return (technique?.options ?? []).map((o) =>
        made(o.name, TECHNIQUE, o.value, o.value === own.technique),
      );
    case "light":
      if (!lightOf(data)) return [];
      return lights.map((l) => made(l.name, LIGHT, l.case_part, l.name === own.light));
    case "composite":
      if (!("composites" in restoration)) return [];
      return composites.map((m) =>
        made(m.name, COMPOSITES, [m.case_part], m.name === own.composite),
      );
  }
}
