import type { Case } from "../api/client";
import { inputsOf } from "./asked";

/** One measurement of the preparation that can be typed. */
export interface Field {
  path: string;
  part: string;
  name: string;
}

const NAMES: Record<string, string> = {
  depth_mm: "depth",
  width_mm: "width",
  length_mm: "length",
  height_mm: "height",
  axial_depth_mm: "axial depth",
};

/** Returns the fields of a case, boxes first, in the order in which they are measured. */
export function fieldsOf(data: Case): Field[] {
  const fields: Field[] = [];
  data.preparation.parts.forEach((part, i) => {
    const box = part.kind === "proximal_box";
    const sizes = box
      ? ["height_mm", "axial_depth_mm", "width_mm"]
      : ["depth_mm", "width_mm", "length_mm"];
    const name = box ? `${part.side} box` : "occlusal box";
    for (const size of sizes)
      fields.push({
        path: `preparation.parts[${i}].${size}`,
        part: name,
        name: NAMES[size] ?? size,
      });
  });
  fields.sort((a, b) => Number(a.part === "occlusal box") - Number(b.part === "occlusal box"));
  fields.push({ path: "preparation.remaining_dentin_mm", part: "pulp", name: "dentin left" });
  return fields;
}

const WORDS: [RegExp, string][] = [
  [/^preparation\.parts\[(\d+)\]\.(\w+)$/, ""],
  [/^preparation\.remaining_dentin_mm$/, "dentin left over the pulp"],
  [/^light\.readings$/, "lamp readings"],
  [/^light\.tip_diameter_mm$/, "lamp tip diameter"],
  [/^light\.output_mode$/, "lamp output"],
  [/^school\.layering$/, "layering school"],
  [/^tooth\.code$/, "tooth, handbook crown"],
  [/^masses\[(\d+)\]\.(\w+)$/, ""],
];

const MASS_WORDS: Record<string, string> = {
  penetration_depth_mm: "penetration depth",
  critical_exposure_j_cm2: "critical exposure",
  max_increment_mm: "largest increment",
  density_g_cm3: "density",
};

/** Returns a path in words of the trade. */
export function wordsOf(path: string, data: Case): string {
  for (const stage of ["assess", "shade", "choose", "isolate", "protect", "matrix", "bond"]) {
    const asked = inputsOf(stage, data).find((input) => input.path === path);
    if (asked) return asked.name;
  }
  const thing = /^shelf\[(\d+)\]\.(\w+)$/.exec(path);
  if (thing) {
    const name = data.shelf?.[Number(thing[1])]?.name ?? "shelf";
    return `${name}, ${(thing[2] ?? "").replace(/_s$/, "").replace(/_/g, " ")}`;
  }
  const part = /^preparation\.parts\[(\d+)\]\.(\w+)$/.exec(path);
  if (part) {
    const found = fieldsOf(data).find((f) => f.path === path);
    return found ? `${found.part}, ${found.name}` : path;
  }
  const mass = /^masses\[(\d+)\]\.(\w+)$/.exec(path);
  if (mass) {
    const name = data.masses[Number(mass[1])]?.name ?? "mass";
    return `${name}, ${MASS_WORDS[mass[2] ?? ""] ?? mass[2]}`;
  }
  return WORDS.find(([pattern, words]) => words && pattern.test(path))?.[1] ?? path;
}
