import { describe, expect, it } from "vitest";
import { type Tooth, arches, dentitionAt, inOrder, onChart, surfacesOf, zoneOf } from "./teeth";

function tooth(code: string, wide = 10): Tooth {
  const outline = Array.from({ length: 24 }, (_, i) => {
    const turn = (2 * Math.PI * i) / 24;
    return [(wide / 2) * Math.cos(turn), 5 * Math.sin(turn)] as [number, number];
  });
  const position = Number(code[1]);
  return {
    code,
    shown: code,
    name: "",
    is_primary: Number(code[0]) > 4,
    is_posterior: position > 3,
    outline,
  };
}

const ALL = [1, 2, 3, 4].flatMap((q) => [1, 2, 3, 4, 5, 6, 7, 8].map((p) => tooth(`${q}${p}`)));
const MILK = [5, 6, 7, 8].flatMap((q) => [1, 2, 3, 4, 5].map((p) => tooth(`${q}${p}`, 7)));

function areaOf(places: [number, number][]): number {
  return Math.abs(
    places.reduce((sum, [x, y], i) => {
      const [u, v] = places[(i + 1) % places.length] ?? [0, 0];
      return sum + (x * v - u * y) / 2;
    }, 0),
  );
}

describe("zoneOf", () => {
  it("parts a tooth into five surfaces that leave nothing out", () => {
    const one = tooth("36", 11);
    const parts = surfacesOf(one).map((letter) => areaOf(zoneOf(one, letter)));
    const whole = areaOf(one.outline as [number, number][]);
    expect(parts.reduce((a, b) => a + b, 0)).toBeGreaterThan(0.97 * whole);
    expect(parts.reduce((a, b) => a + b, 0)).toBeLessThan(1.03 * whole);
  });

  it("has mesial where x is positive and facial where y is", () => {
    const middle = (letter: string) => {
      const zone = zoneOf(tooth("36"), letter);
      return [0, 1].map((i) => zone.reduce((sum, p) => sum + (p[i] ?? 0), 0) / zone.length);
    };
    expect(middle("M")[0]).toBeGreaterThan(2);
    expect(middle("D")[0]).toBeLessThan(-2);
    expect(middle("F")[1]).toBeGreaterThan(2);
    expect(middle("L")[1]).toBeLessThan(-2);
  });
});

describe("arches", () => {
  it("stands them as they are seen: the patient's right to the left, upper teeth above", () => {
    const stands = new Map(arches(ALL, "permanent").map((stand) => [stand.tooth.code, stand]));
    expect(stands.size).toBe(32);
    const at = (code: string) => stands.get(code)?.at ?? [0, 0];
    expect(at("18")[0]).toBeLessThan(at("11")[0]);
    expect(at("11")[0]).toBeLessThan(at("21")[0]);
    expect(at("11")[1]).toBeLessThan(at("41")[1]);
    // Mesial points to the midline on both sides, facial outward.
    for (const code of ["16", "26", "36", "46", "11", "31"]) {
      const stand = stands.get(code);
      if (!stand) throw new Error(code);
      const mesial = onChart(stand, [3, 0]);
      const facial = onChart(stand, [0, 3]);
      const order = Number(code[1]) === 1 ? 1 : Number(code[1]) - 1;
      const before = at(`${code[0]}${order}`);
      if (order > 1)
        expect(Math.hypot(mesial[0] - before[0], mesial[1] - before[1])).toBeLessThan(
          Math.hypot(stand.at[0] - before[0], stand.at[1] - before[1]),
        );
      expect(Math.hypot(...facial)).toBeGreaterThan(Math.hypot(...stand.at));
    }
  });

  it("shows what an age has", () => {
    const all = [...ALL, ...MILK];
    expect(dentitionAt(4)).toBe("primary");
    expect(dentitionAt(9)).toBe("mixed");
    expect(dentitionAt(40)).toBe("permanent");
    expect(arches(all, "primary")).toHaveLength(20);
    const mixed = arches(all, "mixed").map((stand) => stand.tooth.code);
    expect(mixed).toContain("16");
    expect(mixed).toContain("54");
    expect(mixed).not.toContain("14");
    expect(mixed).not.toContain("51");
  });
});

it("names surfaces in their usual order", () => {
  expect(inOrder(["D", "O", "M"])).toBe("MOD");
  expect(inOrder("IM")).toBe("MI");
});
