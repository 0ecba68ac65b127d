import { describe, expect, it } from "vitest";
import { beatsAt } from "./Beat";

describe("beatsAt", () => {
  const step = { seconds: 12 };
  const rhythm = { count: 16, per_minute: 120 };

  it("begins once the loads are carried, and counts two a second", () => {
    // Sixteen thrusts take eight of the twelve seconds.
    expect([0, 3.9, 4.5, 5, 11.9, 12, 60].map((s) => beatsAt(s, step, rhythm))).toEqual([
      0, 0, 1, 2, 15, 16, 16,
    ]);
  });

  it("begins at once where nothing is carried", () => {
    expect(beatsAt(1, { seconds: 8 }, rhythm)).toBe(2);
  });
});
