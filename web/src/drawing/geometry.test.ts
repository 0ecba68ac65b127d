// @vitest-environment node
import { describe, expect, it } from "vitest";
import type { Shape } from "./geometry";
import { bounds, fit, middleOf, pathOf, signs } from "./geometry";

function shape(rings: number[][][]): Shape {
  return { id: "s", role: "increment", material: "body", order: 1, rings, figure_path: null };
}

const SQUARE = [
  [0, 0],
  [4, 0],
  [4, 2],
  [0, 2],
];

describe("signs", () => {
  it("puts mesial to the left in the lower left jaw and crowns upright", () => {
    expect(signs("section", { mirrored: false, upper: false })).toEqual([-1, -1]);
  });

  it("mirrors the other lower side and hangs upper crowns down", () => {
    expect(signs("section", { mirrored: true, upper: false })).toEqual([1, -1]);
    expect(signs("section", { mirrored: false, upper: true })).toEqual([1, 1]);
    expect(signs("section", { mirrored: true, upper: true })).toEqual([-1, 1]);
  });

  it("keeps section and view from above on one mesiodistal axis", () => {
    for (const mirrored of [true, false])
      for (const upper of [true, false]) {
        const turn = { mirrored, upper };
        expect(signs("above", turn)[0]).toBe(signs("section", turn)[0]);
      }
  });

  it("never turns a view from above into its mirror image", () => {
    // Seen from occlusal, mesial-facial-occlusal stays right-handed unless the quadrant is mirrored.
    for (const upper of [true, false]) {
      const [sx, sy] = signs("above", { mirrored: false, upper });
      // Screen y runs down, so a right-handed pair has signs of opposite handedness there.
      expect(sx * -sy).toBe(1);
    }
  });
});

describe("fit", () => {
  it("fits the whole box between the margins, to one scale", () => {
    const frame = fit({ x0: -5, x1: 5, y0: -2, y1: 8 }, [1, -1], 500, 300, 10);
    expect(frame.scale).toBeCloseTo(28);
    for (const corner of [
      [-5, -2],
      [5, 8],
    ]) {
      const [x, y] = frame.place(corner);
      expect(x).toBeGreaterThanOrEqual(10);
      expect(x).toBeLessThanOrEqual(490);
      expect(y).toBeGreaterThanOrEqual(10 - 1e-9);
      expect(y).toBeLessThanOrEqual(290 + 1e-9);
    }
  });

  it("centres the box and turns it by the signs", () => {
    const frame = fit({ x0: 0, x1: 2, y0: 0, y1: 2 }, [-1, -1], 200, 200, 0);
    expect(frame.place([1, 1])).toEqual([100, 100]);
    expect(frame.place([2, 2])).toEqual([0, 0]);
    expect(frame.place([0, 0])).toEqual([200, 200]);
  });

  it("keeps lengths true in both directions", () => {
    const frame = fit({ x0: 0, x1: 10, y0: 0, y1: 3 }, [1, -1], 640, 480, 20);
    const [ax, ay] = frame.place([1, 1]);
    const [bx, by] = frame.place([4, 2]);
    expect(bx - ax).toBeCloseTo(3 * frame.scale);
    expect(ay - by).toBeCloseTo(1 * frame.scale);
  });
});

describe("bounds", () => {
  it("spans all rings of all shapes", () => {
    const found = bounds([shape([SQUARE]), shape([[[-3, 7]], [[1, -9]]])]);
    expect(found).toEqual({ x0: -3, x1: 4, y0: -9, y1: 7 });
  });

  it("has an answer where there is nothing", () => {
    expect(bounds([])).toEqual({ x0: -5, x1: 5, y0: -5, y1: 5 });
  });
});

describe("pathOf", () => {
  const frame = fit({ x0: 0, x1: 10, y0: 0, y1: 10 }, [1, 1], 100, 100, 0);

  it("closes every ring, so that holes are holes", () => {
    const path = pathOf([SQUARE, SQUARE], frame);
    expect(path.match(/M/g)).toHaveLength(2);
    expect(path.match(/Z/g)).toHaveLength(2);
    expect(path.startsWith("M0.0 0.0L40.0 0.0L40.0 20.0")).toBe(true);
  });

  it("leaves lines open when asked", () => {
    expect(pathOf([SQUARE], frame, false)).not.toContain("Z");
  });

  it("draws nothing of nothing", () => {
    expect(pathOf([], frame)).toBe("");
  });
});

describe("middleOf", () => {
  it("is the centroid of a square", () => {
    expect(middleOf(shape([SQUARE]))).toEqual([2, 1]);
  });

  it("takes the larger ring, whichever way it runs", () => {
    const small = [
      [10, 10],
      [10.5, 10],
      [10.5, 10.5],
      [10, 10.5],
    ];
    const middle = middleOf(shape([small, [...SQUARE].reverse()]));
    expect(middle?.[0]).toBeCloseTo(2);
    expect(middle?.[1]).toBeCloseTo(1);
  });

  it("is nowhere for a shape that this view does not cut", () => {
    expect(middleOf(shape([]))).toBeNull();
  });
});
