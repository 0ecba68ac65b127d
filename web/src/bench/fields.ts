import type { Case } from "../api/client";
import { inputsOf } from "./asked";
import { shortOf } from "./features";

type Part = Case["preparation"]["parts"][number];

/** One measurement of the preparation that can be typed. */
export interface Field {
  path: string;
  part: string;
  name: string;
  /** What it is taken for where nobody has told it. */
  taken?: string;
}

const NAMES: Record<string, string> = {
  depth_mm: "depth",
  width_mm: "width",
  length_mm: "length",
  height_mm: "height",
  axial_depth_mm: "axial depth",
  tip_mm: "at tips",
  groove_mm: "in groove",
  above_cervical_mm: "over neck line",
  diameter_mm: "diameter",
  reach_mm: "reach",
  bevel_mm: "facial bevel",
  mesial_mm: "at mesial end",
  distal_mm: "at distal end",
  under_ridge_mm: "under ridge",
  inside_mm: "inside ridge",
  edge_mm: "off edge",
  around_mm: "all round",
  stands_mm: "stands out",
  wall_divergence_deg: "wall divergence",
  facial_fall_deg: "fall to facial",
  bevel_deg: "bevel angle",
};

/** Where the same size means something else. */
const NAMES_OF: Partial<Record<Part["kind"], Record<string, string>>> = {
  slot: { inside_mm: "inside the dentin-enamel junction" },
  pin_hole: { inside_mm: "inside the dentin-enamel junction" },
  saucer: { bevel_mm: "enamel bevel" },
  notch: { bevel_mm: "enamel bevel" },
};

function sizeName(kind: Part["kind"], size: string): string | undefined {
  return NAMES_OF[kind]?.[size] ?? NAMES[size];
}

/** What sizes are taken for that nobody has to tell. */
const TAKEN: Record<string, string> = { groove_mm: "tips", bevel_mm: "none" };
const NECK = ["depth_mm", "width_mm", "height_mm", "above_cervical_mm"];
const SIZES: Record<Part["kind"], string[]> = {
  proximal_box: ["height_mm", "axial_depth_mm", "width_mm"],
  occlusal_box: ["depth_mm", "width_mm", "length_mm"],
  cusp_reduction: ["tip_mm", "groove_mm"],
  saucer: NECK,
  notch: NECK,
  pit: ["diameter_mm", "depth_mm", "above_cervical_mm"],
  proximal_cavity: ["height_mm", "depth_mm", "reach_mm"],
  incisal_fracture: ["mesial_mm", "distal_mm", "bevel_mm"],
  sealant_groove: ["length_mm", "width_mm", "depth_mm"],
  tunnel: ["under_ridge_mm", "inside_mm", "diameter_mm"],
  crown_stump: ["edge_mm", "around_mm", "above_cervical_mm"],
  retention_groove: ["depth_mm", "width_mm", "height_mm"],
  slot: ["length_mm", "width_mm", "depth_mm"],
  pin_hole: ["diameter_mm", "depth_mm", "stands_mm"],
  dovetail_notch: ["width_mm", "height_mm", "depth_mm"],
  shoulder: ["width_mm", "above_cervical_mm"],
};
// What is entered from a face stands alone.
const ORDER: Part["kind"][] = ["proximal_box", "occlusal_box", "cusp_reduction"];
const PART_NAMES: Record<Part["kind"], string> = {
  proximal_box: "box",
  occlusal_box: "occlusal box",
  cusp_reduction: "cover",
  saucer: "saucer",
  notch: "notch",
  pit: "pit",
  proximal_cavity: "cavity",
  incisal_fracture: "lost",
  sealant_groove: "groove",
  tunnel: "tunnel",
  crown_stump: "stump",
  retention_groove: "grooves",
  slot: "slot",
  pin_hole: "pin",
  dovetail_notch: "notch",
  shoulder: "shoulder",
};

/** Returns the fields of a case, boxes first, in the order in which they are measured. */
export function fieldsOf(data: Case): Field[] {
  const parts = data.preparation.parts.map((part, i) => ({ part, i }));
  parts.sort((a, b) => placeOf(a.part) - placeOf(b.part));
  const fields = parts.flatMap(({ part, i }) =>
    SIZES[part.kind].map((size): Field => {
      const path = `preparation.parts[${i}].${size}`;
      return {
        path,
        part: partName(part),
        name: sizeName(part.kind, size) ?? size,
        taken: TAKEN[size],
      };
    }),
  );
  fields.push({ path: "preparation.remaining_dentin_mm", part: "pulp", name: "dentin left" });
  return fields;
}

/** Returns where a part stands in the order of measuring: what is cut last, last. */
function placeOf(part: Part): number {
  const at = ORDER.indexOf(part.kind);
  return at < 0 ? ORDER.length : at;
}

function partName(part: Part): string {
  if ("at" in part) return `${PART_NAMES[part.kind]} ${shortOf(part.at)}`;
  const side = "side" in part && part.kind !== "proximal_cavity" ? `${part.side} ` : "";
  return side + PART_NAMES[part.kind];
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
    const told = data.preparation.parts[Number(part[1])];
    const name = told && sizeName(told.kind, part[2] ?? "");
    return told && name ? `${partName(told)}, ${name}` : path;
  }
  const mass = /^masses\[(\d+)\]\.(\w+)$/.exec(path);
  if (mass) {
    const name = data.masses[Number(mass[1])]?.name ?? "mass";
    return `${name}, ${MASS_WORDS[mass[2] ?? ""] ?? mass[2]}`;
  }
  return WORDS.find(([pattern, words]) => words && pattern.test(path))?.[1] ?? path;
}
