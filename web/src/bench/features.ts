import type { Case } from "../api/client";
import { coverOf } from "./cover";

type Part = Case["preparation"]["parts"][number];
type Feature = Extract<
  Part,
  { kind: "retention_groove" | "slot" | "pin_hole" | "dovetail_notch" | "shoulder" }
>;

/** Something that may be cut besides the cavity, and what it is cut to until somebody says otherwise. */
export interface Option {
  /** As little as tells it from the others, and the same in full. */
  name: string;
  title: string;
  feature: Feature;
}

const SLOT = { kind: "slot", length_mm: 2, width_mm: 0.8, depth_mm: 0.8, inside_mm: 0.5 } as const;
const PIN = {
  kind: "pin_hole",
  diameter_mm: 0.6,
  depth_mm: 2,
  stands_mm: 1.5,
  inside_mm: 0.5,
} as const;
const GROOVE = {
  kind: "retention_groove",
  walls: "both",
  depth_mm: 0.3,
  width_mm: 0.7,
  height_mm: 1.5,
} as const;

const WORDS = { slot: "slot", pin_hole: "pin" };

function named(name: string, feature: Feature): Option {
  return { name, title: name, feature };
}

/** Returns a cusp by its letters, a side or a cusp that has its side's name as it is. */
export function shortOf(site: string): string {
  const [, along, across] = /^(mesio|disto)(facial|lingual)$/.exec(site) ?? [];
  return along && across ? `${along[0]}${across[0]}`.toUpperCase() : site;
}

/** Returns what could hold the filling of a case, or what a later crown stands on. */
export function optionsFor(data: Case): Option[] {
  const { parts } = data.preparation;
  const covered = coverOf(data)?.cusps ?? [];
  const options: Option[] = parts.flatMap((part) =>
    part.kind === "proximal_box"
      ? [named(`grooves ${part.side}`, { ...GROOVE, side: part.side })]
      : [],
  );
  for (const feature of [SLOT, PIN])
    for (const at of covered)
      options.push({
        name: `${WORDS[feature.kind]} ${shortOf(at)}`,
        title: `${WORDS[feature.kind]} at the ${at} cusp`,
        feature: { ...feature, at },
      });
  if (covered.length > 0) {
    const feature = { kind: "shoulder", width_mm: 1.5, above_cervical_mm: 1.5 } as const;
    options.push(named("shoulder", feature));
  }
  if (parts.some((part) => part.kind === "incisal_fracture")) {
    const feature = { kind: "dovetail_notch", width_mm: 2.5, height_mm: 2, depth_mm: 0.8 } as const;
    options.push(named("notch behind", feature));
  }
  return options;
}

/** Returns the part of a case that an option stands for, if it is cut. */
export function cutFor(data: Case, { feature }: Option): Part | undefined {
  return data.preparation.parts.find(
    (part) => part.kind === feature.kind && siteOf(part) === siteOf(feature),
  );
}

/** Returns the parts of a case with an option cut, or without it where it was, and the paths of what nobody has
 *  measured yet. */
export function withToggled(data: Case, option: Option): { parts: Part[]; estimated?: string[] } {
  const { parts } = data.preparation;
  const cut = cutFor(data, option);
  if (cut) return { parts: parts.filter((part) => part !== cut) };
  const sizes = Object.keys(option.feature).filter((name) => name.endsWith("_mm"));
  return {
    parts: [...parts, option.feature],
    estimated: sizes.map((name) => `preparation.parts[${parts.length}].${name}`),
  };
}

/** Returns where a part is cut, of those of which there may be several. */
export function siteOf(part: Part): string {
  if ("at" in part) return part.at;
  return "side" in part ? part.side : "";
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
