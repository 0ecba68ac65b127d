// @vitest-environment node
import { describe, expect, it } from "vitest";
import { dragged, movedEnd, stepped } from "./dragging";
import { type Dimension, fit } from "./geometry";

const FRAME = fit({ x0: -10, x1: 10, y0: -10, y1: 10 }, [-1, -1], 400, 400, 0);
const HEIGHT: Dimension = {
  case_path: "preparation.parts[1].height_mm",
  title: "mesial box, height",
  value: 4.5,
  p0: [2, 6],
  p1: [2, 1.5],
  axis: "z",
  min: 0.1,
  max: 10,
  step: 0.1,
  both_ends: false,
  deepens: false,
  state: "estimated",
};

describe("dragging", () => {
  it("grows a height when the floor is pulled away, by the drawing's scale", () => {
    expect(FRAME.scale).toBe(20);
    expect(dragged(HEIGHT, [0, 30], FRAME)).toBe(6);
    expect(dragged(HEIGHT, [0, -20], FRAME)).toBe(3.5);
  });

  it("moves along one axis only", () => {
    expect(dragged(HEIGHT, [500, 0], FRAME)).toBe(4.5);
    expect(dragged(HEIGHT, [37, 30], FRAME)).toBe(6);
  });

  it("snaps to a tenth and stays within its bounds", () => {
    expect(dragged(HEIGHT, [0, 13], FRAME)).toBe(5.2);
    expect(dragged(HEIGHT, [0, 9999], FRAME)).toBe(10);
    expect(dragged(HEIGHT, [0, -9999], FRAME)).toBe(0.1);
  });

  it("counts twice where both ends move", () => {
    const width = {
      ...HEIGHT,
      axis: "y" as const,
      p0: [0, -2],
      p1: [0, 2],
      value: 4,
      both_ends: true,
    };
    expect(dragged(width, [0, -20], FRAME)).toBe(6);
    const [, y] = movedEnd(width, 6, FRAME);
    expect(y).toBe(FRAME.place([0, 3])[1]);
  });

  it("shows the moved end where the pointer is", () => {
    const [x, y] = movedEnd(HEIGHT, 6, FRAME);
    expect([x, y]).toEqual(FRAME.place([2, 0]));
  });

  it("steps by keys, five at a time with Shift", () => {
    expect(stepped(HEIGHT, "ArrowUp", false)).toBe(4.6);
    expect(stepped(HEIGHT, "ArrowLeft", false)).toBe(4.4);
    expect(stepped(HEIGHT, "ArrowRight", true)).toBe(5);
    expect(stepped(HEIGHT, "ArrowDown", true)).toBe(4);
    expect(stepped(HEIGHT, "a", false)).toBeNull();
  });
});
