// @vitest-environment node
import { expect, test } from "vitest";
import type { Dispute, Rule } from "./queries";
import { chaptersOf, placeOf } from "./words";

function rule(id: string, more: Partial<Rule> = {}): Rule {
  return {
    id,
    title: `title of ${id}`,
    value: 2,
    default_value: 2,
    is_house: false,
    unit: "mm",
    source: "s",
    citation: "Someone 1984",
    sureness: "A",
    low: 1,
    high: 3,
    school: null,
    note: "",
    used: ["Bond"],
    plans: [],
    history: [],
    ...more,
  };
}

const RULES = [
  rule("light.a", { note: "80 % of hardness" }),
  rule("bond.b", { is_house: true }),
  rule("tooth.c", { used: ["Tooth"] }),
];
const DISPUTES = [{ rules: ["tooth.c"] }] as Dispute[];

function ids(search: string, part: "all" | "house" | "disputed" = "all") {
  return chaptersOf(RULES, DISPUTES, search, part).flatMap((c) => c.rules.map((r) => r.id));
}

test("chapters stand in the order of the work, empty ones are left out", () => {
  expect(chaptersOf(RULES, [], "", "all").map((c) => c.name)).toEqual([
    "Tooth",
    "Adhesion",
    "Light",
  ]);
  expect(chaptersOf(RULES, [], "hardness", "all").map((c) => c.name)).toEqual(["Light"]);
});

test("every word of a search must be found somewhere", () => {
  expect(ids("someone BOND")).toEqual(["bond.b", "light.a"]);
  expect(ids("bond hardness")).toEqual(["light.a"]);
  expect(ids("bond nowhere")).toEqual([]);
});

test("practice settings and disputed ones are told from the rest", () => {
  expect(ids("", "house")).toEqual(["bond.b"]);
  expect(ids("", "disputed")).toEqual(["tooth.c"]);
});

test("a value stands between its bounds, by ratio where they span decades", () => {
  expect(placeOf(2, { low: 1, high: 3 })).toBeCloseTo(0.5);
  expect(placeOf(0, { low: 0, high: 3 })).toBe(0);
  expect(placeOf(100, { low: 10, high: 1000 })).toBeCloseTo(0.5);
});
