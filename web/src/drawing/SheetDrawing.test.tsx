import { cleanup, fireEvent, render } from "@testing-library/react";
import { afterEach, describe, expect, it } from "vitest";
import { Dimensions } from "./Dimensions";
import { SheetDrawing } from "./SheetDrawing";
import { hatchOf } from "./Hatches";
import { type Dimension, type Shape, type Sheet, fit } from "./geometry";

afterEach(cleanup);

function block(id: string, role: string, material: string, order: number, x: number): Shape {
  const rings = [
    [
      [x, 0],
      [x + 2, 0],
      [x + 2, 3],
      [x, 3],
    ],
  ];
  return { id, role, material, order, rings, figure_path: null };
}

const SHEET: Sheet = {
  view: "section",
  title: "a section",
  axes: ["x", "z"],
  shapes: [
    block("neighbour.mesial", "neighbour", "enamel", 0, 6),
    block("tooth", "tooth", "enamel", 0, -4),
    block("dentin", "tooth", "dentin", 0, -3),
    block("one", "increment", "body", 1, 0),
    block("two", "increment", "enamel", 2, 2),
    block("band.mesial", "band", "clear", 0, 4),
  ],
  lines: [{ ...block("outline", "line", "outline", 0, -4) }],
  dimensions: [],
  marks: [
    { id: "worst", text: "weakest, 1.05 × need", at: [1, 1] },
    { id: "tip.left", text: "", at: [-4, 7] },
    { id: "tip.right", text: "1148 mW/cm²", at: [5, 7] },
    { id: "tooth", text: "36", at: [0, -1] },
  ],
};

function draw(sheet: Sheet, selected: number | null = null) {
  const picked: number[] = [];
  const { container, getByText, queryByText } = render(
    <SheetDrawing
      sheet={sheet}
      orientation={{ mirrored: false, upper: false }}
      width={600}
      height={400}
      selected={selected}
      onSelect={(order) => picked.push(order)}
    />,
  );
  return { container, getByText, queryByText, picked };
}

describe("SheetDrawing", () => {
  it("draws every polygon of the server and numbers the increments", () => {
    const { container, getByText } = draw(SHEET);
    expect(container.querySelectorAll("path[data-increment]")).toHaveLength(2);
    expect(getByText("1")).toBeDefined();
    expect(getByText("2")).toBeDefined();
    expect(getByText("36")).toBeDefined();
    expect(getByText(/lamp, 1148/)).toBeDefined();
  });

  it("keeps every point of the tooth within the picture", () => {
    const { container } = draw(SHEET);
    for (const path of container.querySelectorAll("path[data-increment]")) {
      const numbers = (path.getAttribute("d")?.match(/-?[\d.]+/g) ?? []).map(Number);
      numbers.forEach((n, i) => {
        expect(n).toBeGreaterThanOrEqual(0);
        expect(n).toBeLessThanOrEqual(i % 2 ? 400 : 600);
      });
    }
  });

  it("selects an increment by its area or its number", () => {
    const { container, getByText, picked } = draw(SHEET);
    fireEvent.click(container.querySelector('path[data-increment="2"]') as Element);
    fireEvent.click(getByText("1"));
    expect(picked).toEqual([2, 1]);
  });

  it("dims all but the selected one", () => {
    const { container } = draw(SHEET, 1);
    const opacity = (order: number) =>
      container
        .querySelector(`path[data-increment="${order}"]`)
        ?.parentElement?.getAttribute("opacity");
    expect([opacity(1), opacity(2)]).toEqual(["1", "0.4"]);
  });

  it("shows from above only the selected number, since portions lie on each other there", () => {
    const above: Sheet = { ...SHEET, view: "above" };
    expect(draw(above).queryByText("1")).toBeNull();
    cleanup();
    expect(draw(above, 1).queryByText("1")).not.toBeNull();
  });

  it("hatches neighbours in order differently and the last one upright", () => {
    expect(hatchOf(1, 5)).not.toBe(hatchOf(2, 5));
    expect(hatchOf(5, 5)).toBe("url(#hatch-last)");
  });
});

describe("Dimensions", () => {
  const frame = fit({ x0: -5, x1: 5, y0: 0, y1: 8 }, [-1, -1], 500, 400, 10);
  const height: Dimension = {
    case_path: "preparation.parts[1].height_mm",
    title: "mesial box, height",
    value: 4.5,
    p0: [1, 6],
    p1: [1, 1.5],
    axis: "z",
    min: 0.1,
    max: 10,
    step: 0.1,
    both_ends: false,
    state: "estimated",
  };

  it.each([
    ["measured", "4.5"],
    ["estimated", "about 4.5"],
    ["handbook", "handbook 4.5"],
  ] as const)("says how a length is known: %s", (state, text) => {
    const { getByRole } = render(
      <svg>
        <Dimensions
          dimensions={[{ ...height, state }]}
          frame={frame}
          valueOf={() => null}
          onPick={() => undefined}
          onBegin={() => undefined}
          onChange={() => undefined}
        />
      </svg>,
    );
    const label = getByRole("button");
    expect(label.textContent).toBe(text);
    expect(label.getAttribute("aria-label")).toContain(`mesial box, height: ${text} mm, ${state}`);
  });

  it("leads to the field that it shows", () => {
    const picked: string[] = [];
    const { getByRole } = render(
      <svg>
        <Dimensions
          dimensions={[height]}
          frame={frame}
          valueOf={() => null}
          onPick={(path) => picked.push(path)}
          onBegin={() => undefined}
          onChange={() => undefined}
        />
      </svg>,
    );
    fireEvent.click(getByRole("button"));
    expect(picked).toEqual(["preparation.parts[1].height_mm"]);
  });
});
