import { act, renderHook } from "@testing-library/react";
import { beforeEach, describe, expect, it } from "vitest";
import type { Case } from "../api/client";
import { type Cusp, coverOf, withCover } from "./cover";
import { withToggled, withoutStrays } from "./features";
import { type CasePath, type CaseValue, valueAt, withValue } from "./paths";
import { lineOf, partAtHand, partsOf } from "./parts";
import { knownOf, textOf, useDraft } from "./useDraft";

const CASE = {
  format: "mallet-case/2",
  tooth: { code: "36", vitality: "vital" },
  restoration: {
    material: "composite",
    surfaces: "MO",
    composites: [{ name: "Skarv body", role: "body" }],
  },
  preparation: {
    remaining_dentin_mm: 1.5,
    parts: [
      { kind: "occlusal_box", depth_mm: 2, width_mm: 2.5, length_mm: 5, wall_divergence_deg: 3 },
      {
        kind: "proximal_box",
        side: "mesial",
        height_mm: 4.5,
        width_mm: 4,
        axial_depth_mm: 1.5,
        wall_divergence_deg: 3,
      },
    ],
  },
  provenance: { "preparation.parts[1].height_mm": "estimated" },
} as unknown as Case;
const HEIGHT = "preparation.parts[1].height_mm";

/** Returns whether a path may be set to a value; what the schema forbids does not compile. */
function allows<Path extends CasePath>(path: Path, value: CaseValue<Path>) {
  return [path, value].length === 2;
}

describe("paths", () => {
  it("are those of the schema, with its values", () => {
    expect(allows("restoration.technique", "oblique")).toBe(true);
    expect(allows("preparation.parts[2].tip_mm", 1.5)).toBe(true);
    // @ts-expect-error a technique is no number
    allows("restoration.technique", 3);
    // @ts-expect-error nor is a length a word
    allows("preparation.parts[2].tip_mm", "deep");
    // @ts-expect-error and nothing is called so
    allows("preparation.parts[2].tip_inch", 1.5);
  });

  it("read what they name, and nothing where there is nothing", () => {
    expect(valueAt(CASE, HEIGHT)).toBe(4.5);
    expect(valueAt(CASE, "restoration.composites[0].name")).toBe("Skarv body");
    expect(valueAt(CASE, "restoration.composites[7].name")).toBeUndefined();
    expect(valueAt(CASE, "restoration.light.readings[0]")).toBeUndefined();
  });

  it("set a copy and share all that is beside the path", () => {
    const changed = withValue(CASE, HEIGHT, 6);
    expect(valueAt(changed, HEIGHT)).toBe(6);
    expect(valueAt(CASE, HEIGHT)).toBe(4.5);
    expect(changed.preparation.parts[0]).toBe(CASE.preparation.parts[0]);
    expect(changed.restoration).toBe(CASE.restoration);
    expect(Array.isArray(changed.preparation.parts)).toBe(true);
  });

  it("make what is missing on the way", () => {
    expect(
      valueAt(withValue(CASE, "restoration.technique", "oblique"), "restoration.technique"),
    ).toBe("oblique");
  });
});

describe("a cover", () => {
  const TIP = "preparation.parts[2].tip_mm";

  it("is added last, estimated, changed in place and taken away again", () => {
    const added = withCover(CASE, ["mesiolingual"]);
    expect(added.estimated).toEqual([TIP]);
    const covered = withValue(CASE, "preparation.parts", added.parts);
    expect(coverOf(covered)).toMatchObject({ cusps: ["mesiolingual"], tip_mm: 2 });
    const deeper = withValue(covered, TIP, 1.5);
    const both = withCover(deeper, ["mesiolingual", "distolingual"]);
    expect(both.estimated).toBeUndefined();
    expect(both.parts[2]).toMatchObject({ cusps: ["mesiolingual", "distolingual"], tip_mm: 1.5 });
    expect(withCover(deeper, []).parts).toEqual(CASE.preparation.parts);
  });

  it("leaves nothing told of it once it is gone, and comes back by undo", () => {
    const { result } = renderHook(() => useDraft(CASE, "bench 1"));
    const provenance = () => Object.keys(result.current[0].data.provenance ?? {});
    const take = (cusps: Cusp[]) =>
      act(() => {
        const { parts, estimated } = withCover(result.current[0].data, cusps);
        result.current[1].set("preparation.parts", parts, estimated);
      });
    take(["distal"]);
    expect(provenance()).toEqual([HEIGHT, TIP]);
    take([]);
    expect(provenance()).toEqual([HEIGHT]);
    act(() => result.current[1].undo());
    expect(knownOf(result.current[0], TIP)).toBe("estimated");
  });
});

describe("the parts beside a drawing", () => {
  const FIELDS = (["height_mm", "walls_deg"] as const).map((name, i) => ({
    path: `preparation.parts[1].${name}`,
    part: "mesial box",
    name,
    unit: i ? "°" : "mm",
    help: "",
    taken: i ? "as walls" : "",
  }));

  it("have a line each: what is estimated is marked, degrees are told, what is untold is as taken", () => {
    const parts = partsOf(FIELDS, []);
    const told = (data: Case) => parts.map((part) => lineOf(part, { data, texts: {} }));
    expect(told(CASE)).toEqual(["~4.5 · as walls"]);
    const walls = { [FIELDS[1]?.path ?? ""]: "-4" };
    expect(parts.map((part) => lineOf(part, { data: CASE, texts: walls }))).toEqual(["~4.5 · -4°"]);
  });

  it("begin with the one that was estimated, and go by what is picked as long as it is there", () => {
    const pulp = { ...FIELDS[0], path: "p", part: "pulp" } as (typeof FIELDS)[number];
    const parts = partsOf([pulp, ...FIELDS], [{ path: HEIGHT, got: "60", allowed: "up to 7" }]);
    expect(parts.map((part) => part.isWrong)).toEqual([false, true]);
    expect(partAtHand(parts, null, CASE)).toBe("mesial box");
    expect(partAtHand(parts, "pulp", CASE)).toBe("pulp");
    expect(partAtHand(parts, "slot facial", CASE)).toBe("mesial box");
  });
});

describe("useDraft", () => {
  function bench() {
    return renderHook(() => useDraft(CASE, "bench 1")).result;
  }

  beforeEach(() => sessionStorage.clear());

  it("outlives a reload, and is undone as one; not where another case was saved meanwhile", () => {
    const before = bench();
    act(() => before.current[1].type(HEIGHT, "6,"));
    act(() => before.current[1].type(HEIGHT, "6,5"));
    const after = bench();
    expect(textOf(after.current[0], HEIGHT)).toBe("6,5");
    expect(valueAt(after.current[0].data, HEIGHT)).toBe(6.5);
    const saved = withValue(CASE, HEIGHT, 5.5);
    const other = renderHook(() => useDraft(saved, "bench 1")).result;
    expect(valueAt(other.current[0].data, HEIGHT)).toBe(5.5);
    // The rules and stock of another day are none of the case's own.
    const tomorrow: Case = { ...CASE, practice_settings: { "light.tip_tilt_deg": 1 } };
    act(() => after.current[1].type(HEIGHT, "7"));
    const next = renderHook(() => useDraft(tomorrow, "bench 1")).result;
    expect(textOf(next.current[0], HEIGHT)).toBe("7");
    act(() => next.current[1].undo());
    expect(next.current[0].data).toEqual(tomorrow);
    expect(sessionStorage).toHaveLength(0);
  });

  it("takes a number with point or comma", () => {
    const draft = bench();
    for (const text of ["6.5", "6,5", " 6.5 "]) {
      act(() => draft.current[1].type(HEIGHT, text));
      expect(valueAt(draft.current[0].data, HEIGHT)).toBe(6.5);
      expect(textOf(draft.current[0], HEIGHT)).toBe(text);
    }
  });

  it("sends what is no number as typed, and loses nothing", () => {
    const draft = bench();
    act(() => draft.current[1].type(HEIGHT, "6..5"));
    expect(valueAt(draft.current[0].data, HEIGHT)).toBe("6..5");
    expect(textOf(draft.current[0], HEIGHT)).toBe("6..5");
  });

  it("takes an emptied field as not known", () => {
    const draft = bench();
    act(() => draft.current[1].type("preparation.remaining_dentin_mm", " "));
    expect(valueAt(draft.current[0].data, "preparation.remaining_dentin_mm")).toBeNull();
  });

  it("tells measured from estimated and turns one into the other", () => {
    const draft = bench();
    expect(knownOf(draft.current[0], HEIGHT)).toBe("estimated");
    act(() => draft.current[1].toggleKnown(HEIGHT));
    expect(knownOf(draft.current[0], HEIGHT)).toBe("measured");
    act(() => draft.current[1].toggleKnown(HEIGHT));
    expect(knownOf(draft.current[0], HEIGHT)).toBe("estimated");
    expect(CASE.provenance?.[HEIGHT]).toBe("estimated");
  });

  it("keeps other fields' text while one is typed", () => {
    const draft = bench();
    act(() => draft.current[1].type("preparation.parts[0].depth_mm", "2.2"));
    act(() => draft.current[1].type(HEIGHT, "bad"));
    expect(textOf(draft.current[0], "preparation.parts[0].depth_mm")).toBe("2.2");
    expect(textOf(draft.current[0], "preparation.parts[0].width_mm")).toBe("2.5");
  });

  it("undoes a gesture as one, redoes it, and forgets what was undone once something new is done", () => {
    const draft = bench();
    const height = () => valueAt(draft.current[0].data, HEIGHT);
    const act1 = (change: () => void) => act(change);
    act1(() => draft.current[1].begin());
    for (const text of ["5", "5.", "5.5"]) act1(() => draft.current[1].type(HEIGHT, text));
    act1(() => draft.current[1].set("restoration.technique", "oblique"));
    expect(draft.current[2]).toEqual({ canUndo: true, canRedo: false });
    act1(() => draft.current[1].undo());
    expect(valueAt(draft.current[0].data, "restoration.technique")).toBeUndefined();
    expect(height()).toBe(5.5);
    act1(() => draft.current[1].undo());
    expect(height()).toBe(4.5);
    expect(textOf(draft.current[0], HEIGHT)).toBe("4.5");
    expect(draft.current[2]).toEqual({ canUndo: false, canRedo: true });
    act1(() => draft.current[1].redo());
    expect(height()).toBe(5.5);
    act1(() => draft.current[1].toggleKnown(HEIGHT));
    expect(draft.current[2].canRedo).toBe(false);
  });

  it("has nothing to undo after a field was only looked at", () => {
    const draft = bench();
    act(() => draft.current[1].begin());
    act(() => draft.current[1].begin());
    expect(draft.current[2].canUndo).toBe(false);
    act(() => draft.current[1].undo());
    expect(draft.current[0].data).toBe(CASE);
  });
});

describe("what holds a restoration besides the bond", () => {
  const PIN = {
    value: "pin_hole distolingual",
    name: "pin DL",
    part: { kind: "pin_hole", at: "distolingual", diameter_mm: 0.6, depth_mm: 2 },
  };
  const covered = withValue(CASE, "preparation.parts", withCover(CASE, ["distolingual"]).parts);

  it("is cut as estimated, and taken back as it was", () => {
    const cut = withToggled(covered, PIN as never);
    expect(cut.parts[3]).toEqual(PIN.part);
    expect(cut.estimated).toContain("preparation.parts[3].depth_mm");
    const pinned = withValue(covered, "preparation.parts", cut.parts);
    const back = withToggled(pinned, { ...PIN, cut_at: 3 } as never);
    expect(back.parts).toEqual(covered.preparation.parts);
  });

  it("goes with the cusp whose floor it stands on", () => {
    const pinned = withToggled(covered, PIN as never).parts;
    const bare = withCover(withValue(CASE, "preparation.parts", pinned), []).parts;
    expect(withoutStrays(bare)).toEqual(CASE.preparation.parts);
    expect(withoutStrays(pinned)).toEqual(pinned);
  });
});
