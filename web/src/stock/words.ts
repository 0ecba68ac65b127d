import { numberIn } from "../shell/numbers";
import type { VerdictKind } from "../shell/Verdict";
import type { Field, Item } from "./queries";

/** Kinds of things, in the order in which the work wants them. */
export const KINDS: Record<string, string> = {
  mass: "Composites",
  adhesive: "Adhesives",
  ionomer: "Glass ionomers",
  sealant: "Fissure sealants",
  coat: "Coats",
  base: "Bases",
  liner: "Liners",
  capsule: "Amalgam capsules",
  carrier: "Amalgam carriers",
  varnish: "Cavity varnish",
  pin: "Pins",
  gold: "Direct gold",
  band: "Bands",
  wedge: "Wedges",
  ring: "Rings",
  bur: "Burs",
  condenser: "Condensers",
  mallet: "Mallets",
  annealer: "Annealers",
  hand_instrument: "Hand instruments",
  abrasive: "Abrasives",
  crown_form: "Strip crown forms",
};

const UNITS: [string, string][] = [
  ["_vol_percent", "vol %"],
  ["_j_cm2", "J/cm²"],
  ["_g_cm3", "g/cm³"],
  ["_gpa", "GPa"],
  ["_mm_al", "mm Al"],
  ["_mm3", "mm³"],
  ["_mm2", "mm²"],
  ["_mm", "mm"],
  ["_mg", "mg"],
  ["_s", "s"],
  ["_n", "N"],
];

/** What the manufacturer says of its light, in words. */
const OF_MANUFACTURER: Record<string, { name: string; unit: string }> = {
  "manufacturer.seconds": { name: "manufacturer's curing time", unit: "s" },
  "manufacturer.at_irradiance_mw_cm2": { name: "at an irradiance of", unit: "mW/cm²" },
};

/** A property's name and unit as read: `head_mm` is the head, in mm. */
export function wordsOf(name: string): { name: string; unit: string } {
  const told = OF_MANUFACTURER[name];
  if (told) return told;
  const found = UNITS.find(([ending]) => name.endsWith(ending));
  const stem = found ? name.slice(0, -found[0].length) : name;
  const words = stem.replaceAll("_", " ").replace(/^ph$/, "pH");
  return { name: words, unit: found?.[1] ?? "" };
}

/** A property's value as read. */
export function said(value: unknown): string {
  if (typeof value === "boolean") return value ? "yes" : "no";
  return String(value).replaceAll("_", " ");
}

/** How a thing stands, in one mark. */
export function standing(item: Item): VerdictKind {
  if (item.flags.some((f) => f.level === "stop")) return "fail";
  return item.flags.length > 0 ? "caution" : "pass";
}

/** How many packages of a thing may still be used. */
export function leftOf(item: Item): number {
  return item.lots.filter((lot) => !lot.is_over).reduce((sum, lot) => sum + lot.count, 0);
}

/** The things that fit a search, or of those only what something is to be said of, by kind. */
export function groupsOf(
  items: Item[],
  search: string,
  onlyFlagged: boolean,
): { kind: string; items: Item[] }[] {
  const words = search.toLowerCase().split(/\s+/).filter(Boolean);
  const fitting = items.filter((item) => {
    if (onlyFlagged && item.flags.length === 0) return false;
    const text = [
      item.name,
      item.manufacturer,
      item.gtin,
      KINDS[item.kind],
      ...item.lots.map((l) => l.number),
    ]
      .join(" ")
      .toLowerCase();
    return words.every((word) => text.includes(word));
  });
  return Object.keys(KINDS)
    .map((kind) => ({ kind, items: fitting.filter((item) => item.kind === kind) }))
    .filter((group) => group.items.length > 0);
}

/** A typed property as the server takes it; what is no number goes as it is, for the server to name. */
export function meant(text: string, field: Field): unknown {
  const trimmed = text.trim();
  if (field.options?.join() === "yes,no") return trimmed === "yes";
  if (field.options) return trimmed;
  const number = numberIn(trimmed);
  return Number.isFinite(number) ? number : trimmed;
}
