import { expect, it } from "vitest";
import type { Sheet } from "../drawing/geometry";
import { rowsOf } from "./Legend";

const RING: Sheet["shapes"][number]["rings"] = [
  [
    [0, 0],
    [1, 0],
    [1, 1],
  ],
];

function shape(role: string, material: string) {
  return { id: role, role, material, order: 0, rings: RING, figure_path: null };
}

const SECTION = {
  view: "section",
  title: "a section",
  axes: ["x", "z"],
  shapes: [shape("tooth", "enamel"), shape("increment", "body"), shape("increment", "enamel")],
  lines: [shape("line", "cervical")],
  dimensions: [],
  marks: [{ id: "worst", text: "lowest", at: [0, 0] }],
} as unknown as Sheet;

it("explains each thing that a drawing shows once, and nothing that it does not show", () => {
  const above = { ...SECTION, view: "above", shapes: [shape("band", "clear")] } as unknown as Sheet;
  expect(rowsOf([SECTION, above]).map((row) => row.name)).toEqual([
    "enamel",
    "increment, numbered in the order of placement",
    "clear band",
    "cementoenamel junction",
    "point of lowest radiant exposure",
  ]);
  // Painted by the same hand: what a row shows is a shape of the drawing, moved.
  expect(rowsOf([SECTION])[0]?.sheet.shapes[0]?.material).toBe("enamel");
  expect(rowsOf([])).toEqual([]);
});
