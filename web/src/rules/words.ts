import type { Dispute, Rule } from "./queries";

/** The chapters of the rulebook, by the first word of an id, in the order of the work. */
const CHAPTERS: Record<string, string> = {
  choose: "Material, in points",
  tooth: "Tooth",
  color: "Color",
  shade: "Shade",
  isolate: "Isolation",
  anesthetic: "Anesthesia",
  prepare: "Preparation",
  protect: "Pulp protection",
  matrix: "Matrix and wedge",
  bond: "Adhesion",
  composite: "Composite",
  ionomer: "Glass ionomer",
  sealant: "Fissure sealant",
  amalgam: "Amalgam",
  gold: "Direct gold",
  light: "Light",
  chair: "Times of the hand",
  estimate: "Estimates by eye",
};

export interface Chapter {
  id: string;
  name: string;
  rules: Rule[];
}

/** Which rules are shown: all, those the house has set, those on which schools differ. */
export type Part = "all" | "house" | "disputed";

/** The rules that fit a search and a part, by chapter; every word must be found somewhere. */
export function chaptersOf(
  rules: Rule[],
  disputes: Dispute[],
  search: string,
  part: Part,
): Chapter[] {
  const words = search.toLowerCase().split(/\s+/).filter(Boolean);
  const disputed = new Set(disputes.flatMap((d) => d.rules));
  const fitting = rules.filter((rule) => {
    if (part === "house" && !rule.is_house && rule.history.length === 0) return false;
    if (part === "disputed" && !disputed.has(rule.id)) return false;
    const text = [
      rule.id,
      rule.title,
      rule.citation,
      rule.note,
      rule.school ?? "",
      ...rule.used,
      ...rule.history.map((h) => `${h.why} ${h.who}`),
    ]
      .join(" ")
      .toLowerCase();
    return words.every((word) => text.includes(word));
  });
  const order = Object.keys(CHAPTERS);
  const ids = [...new Set(rules.map(chapterOf))].sort(
    (a, b) => order.indexOf(a) - order.indexOf(b),
  );
  return ids
    .map((id) => ({
      id,
      name: CHAPTERS[id] ?? id,
      rules: fitting.filter((rule) => chapterOf(rule) === id),
    }))
    .filter((chapter) => chapter.rules.length > 0);
}

function chapterOf(rule: Rule): string {
  return rule.id.split(".")[0] ?? "";
}

/** Where a value lies between the bounds of its rule, 0 to 1: by ratio where they span two decades. */
export function placeOf(value: number, { low, high }: Pick<Rule, "low" | "high">): number {
  if (low > 0 && high / low >= 100) return Math.log(value / low) / Math.log(high / low);
  return high === low ? 0 : (value - low) / (high - low);
}
