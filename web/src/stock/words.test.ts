// @vitest-environment node
import { expect, test } from "vitest";
import type { Field, Item } from "./queries";
import { groupsOf, leftOf, meant, said, standing, wordsOf } from "./words";

function item(kind: string, name: string, more: Partial<Item> = {}): Item {
  return {
    id: 1,
    kind,
    name,
    manufacturer: "",
    gtin: "",
    properties: {},
    lots: [],
    flags: [],
    ...more,
  };
}

const OVER = { code: "shelf.over", text: "over", level: "stop" };
const SOON = { code: "shelf.soon", text: "soon", level: "caution" };
const STOCK = [
  item("wedge", "thin wedge"),
  item("mass", "body", { flags: [SOON], manufacturer: "Skarv" }),
  item("liner", "hydroxide", { flags: [OVER, SOON] }),
];

function names(search: string, onlyFlagged = false) {
  return groupsOf(STOCK, search, onlyFlagged).flatMap((g) => g.items.map((i) => i.name));
}

test("things stand by kind in the order of the work, and are found by every word", () => {
  expect(names("")).toEqual(["body", "hydroxide", "thin wedge"]);
  expect(names("skarv composite")).toEqual(["body"]);
  expect(names("skarv wedge")).toEqual([]);
  expect(names("", true)).toEqual(["body", "hydroxide"]);
});

test("the worst that is to be said of a thing is its mark", () => {
  expect(STOCK.map(standing)).toEqual(["pass", "caution", "fail"]);
});

test("packages that are over do not count as left", () => {
  const lot = { id: 1, number: "", expires_on: null, is_over: false, count: 3 };
  expect(leftOf(item("mass", "m", { lots: [lot, { ...lot, is_over: true }] }))).toBe(3);
});

test("properties are read with their units and typed as they are meant", () => {
  expect(wordsOf("critical_exposure_j_cm2")).toEqual({ name: "critical exposure", unit: "J/cm²" });
  expect(wordsOf("ph")).toEqual({ name: "pH", unit: "" });
  expect(said("resin_modified_ionomer")).toBe("resin modified ionomer");
  const field = { name: "x", is_needed: true } as Field;
  expect(meant("1,5", field)).toBe(1.5);
  expect(meant("thick", field)).toBe("thick");
  expect(meant("yes", { ...field, options: ["yes", "no"] })).toBe(true);
});

test("what the manufacturer says of its light is said in words", () => {
  expect(wordsOf("manufacturer.seconds")).toEqual({
    name: "manufacturer's curing time",
    unit: "s",
  });
  expect(wordsOf("manufacturer.at_irradiance_mw_cm2").unit).toBe("mW/cm²");
});
