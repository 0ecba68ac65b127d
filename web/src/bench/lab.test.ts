import { describe, expect, it } from "vitest";
import { cssOf } from "./lab";

/** Against the published transform of IEC 61966-2-1: white, black, a middle gray and the red primary. */
describe("CIELAB on a screen", () => {
  it.each([
    [[100, 0, 0], "rgb(255, 255, 255)"],
    [[0, 0, 0], "rgb(0, 0, 0)"],
    [[53.39, 0, 0], "rgb(127, 127, 127)"],
    [[53.24, 80.09, 67.2], "rgb(255, 0, 0)"],
  ] as const)("shows %j as %s", (lab, wanted) => {
    const [found, told] = [cssOf(lab), wanted].map((one) => (one.match(/\d+/g) ?? []).map(Number));
    found?.forEach((value, at) => expect(Math.abs(value - (told?.[at] ?? 0))).toBeLessThan(2));
  });
});
