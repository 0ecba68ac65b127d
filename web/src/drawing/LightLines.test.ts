// @vitest-environment node
import { describe, expect, it } from "vitest";
import { labels } from "./LightLines";
import type { Frame } from "./geometry";

const frame: Frame = { scale: 100, place: ([x = 0, y = 0]) => [100 * x, 100 * y] };

function line(times_need: number, y: number) {
  const points = Array.from({ length: 41 }, (_, i) => [i / 10, y]);
  return { view: "section" as const, order: 1, times_need, points };
}

describe("labels of light lines", () => {
  it("begin with the least, which says what is counted", () => {
    const put = labels([line(5, 2), line(1, 1)], frame, [], []);
    expect(put.map((l) => l.text)).toEqual(["1 × required", "5 ×"]);
    expect(put[0]?.at).toEqual([100, 100]);
  });

  it("keep off each other and off the labels of dimensions", () => {
    const close = labels([line(1, 1), line(2, 1.1)], frame, [], []);
    expect(close).toHaveLength(2);
    expect(Math.abs((close[0]?.at[0] ?? 0) - (close[1]?.at[0] ?? 0))).toBeGreaterThan(30);
    const tag = { at: [100, 100] as [number, number], wide: 60, high: 26 };
    const [moved] = labels([line(1, 1)], frame, [tag], []);
    expect(Math.abs((moved?.at[0] ?? 0) - 100)).toBeGreaterThan(30);
  });

  it("keep off the numbers of increments", () => {
    const number = { order: 1, at: [100, 104] as [number, number], r: 10 };
    const [moved] = labels([line(1, 1)], frame, [], [number]);
    expect(Math.abs((moved?.at[0] ?? 100) - 100)).toBeGreaterThan(35);
  });

  it("are left out where there is no room", () => {
    const everywhere = { at: [200, 100] as [number, number], wide: 900, high: 26 };
    expect(labels([line(1, 1)], frame, [everywhere], [])).toEqual([]);
  });
});
