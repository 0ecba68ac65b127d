import { cleanup, fireEvent, render, waitFor } from "@testing-library/react";
import { afterEach, describe, expect, it, vi } from "vitest";
import { Dimensions } from "./Dimensions";
import { SheetDrawing } from "./SheetDrawing";
import { hatchOf } from "./hatching";
import { incrementAt, paint, partAt, seatOf } from "./paint";
import { boxOf, frameFor } from "./placing";
import { type Spot, endsOf, isApart, tagsOf } from "./tags";
import { type Dimension, type Frame, type Shape, type Sheet, fit } from "./geometry";

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
    { id: "worst", text: "lowest, 1.05 × required", at: [1, 1] },
    { id: "tip.left", text: "", at: [-4, 7] },
    { id: "tip.right", text: "1148 mW/cm²", at: [5, 7] },
    { id: "tooth", text: "36", at: [0, -1] },
  ],
  parts: [],
};

interface Mark {
  does: string;
  args: unknown[];
  alpha: number;
  colour: unknown;
}

/** A pen that notes down what it is told to do. */
function notingPen() {
  const marks: Mark[] = [];
  const kept: number[] = [];
  const look: Record<string, unknown> = { globalAlpha: 1 };
  const pen = new Proxy(look, {
    get: (target, name: string) => {
      if (name in target) return target[name];
      return (...args: unknown[]) => {
        if (name === "save") kept.push(look.globalAlpha as number);
        if (name === "restore") look.globalAlpha = kept.pop();
        const colour = name === "stroke" ? look.strokeStyle : look.fillStyle;
        marks.push({ does: name, args, alpha: look.globalAlpha as number, colour });
        return { addColorStop: () => undefined };
      };
    },
  });
  return { pen: pen as unknown as CanvasRenderingContext2D, marks };
}

const PLACED = { orientation: { mirrored: false, upper: false }, width: 600, height: 400 };

function draw(sheet: Sheet, selected: number | null = null) {
  const { pen, marks } = notingPen();
  const frame = frameFor({ sheet, ...PLACED });
  paint(pen, { sheet, ...PLACED, selected, hasScaleBar: true, sharpness: 1 });
  const texts = textsOf(marks);
  const filled = (colour: string) => marks.filter((m) => m.does === "fill" && m.colour === colour);
  return { marks, texts, filled, frame };
}

function textsOf(marks: Mark[]) {
  return marks.filter((m) => m.does === "fillText").map((m) => m.args[0]);
}

const ODD = "#d3e1dc";
const EVEN = "#e6ece6";

describe("paint", () => {
  it("fills every increment and numbers it, names the tooth and the curing light, shows the scale", () => {
    const { texts, filled } = draw(SHEET);
    expect([filled(ODD).length, filled(EVEN).length]).toEqual([1, 1]);
    expect(texts).toEqual(
      expect.arrayContaining(["1", "2", "36", "1148 mW/cm²", "5 mm, lengths in mm"]),
    );
  });

  it("traces the server's points where the frame puts them, all within the picture", () => {
    const { marks, frame } = draw(SHEET);
    const traced = marks
      .filter((m) => m.does === "lineTo" || m.does === "moveTo")
      .map((m) => m.args.join());
    for (const shape of SHEET.shapes.filter((s) => s.role === "increment"))
      for (const point of shape.rings.flat()) {
        const [x, y] = frame.place(point);
        expect(traced).toContain([x, y].join());
        expect([x > 0 && x < 600, y > 0 && y < 400]).toEqual([true, true]);
      }
  });

  it("shows the gingival margin eight times larger in a corner, clipped to it", () => {
    const end = { case_path: "p.axial_depth_mm", p0: [4, 0.5], p1: [3, 0.5] };
    const ridge = { case_path: "p.height_mm", p0: [3, 4], p1: [3, 0.5] };
    const dimensions = [end, ridge] as Dimension[];
    const { pen, marks } = notingPen();
    const inset = { ...SHEET, dimensions };
    paint(pen, {
      sheet: SHEET,
      inset,
      ...PLACED,
      selected: null,
      hasScaleBar: false,
      sharpness: 1,
    });
    expect(textsOf(marks)).toContain("magnified 8 ×");
    expect(marks.filter((m) => m.does === "fill" && m.colour === ODD)).toHaveLength(2);
  });

  it("names its directions, of the other side of the mouth the other way round", () => {
    const { pen, marks } = notingPen();
    const look = { sheet: SHEET, selected: null, hasScaleBar: false, sharpness: 1 };
    const leftOf = (mirrored: boolean) => {
      marks.length = 0;
      const orientation = { mirrored, upper: false };
      paint(pen, { ...look, ...PLACED, orientation });
      const found = marks.filter((m) => m.args[0] === "mesial" || m.args[0] === "distal");
      return found.filter((m) => m.does === "fillText" && m.args[1] === 8).map((m) => m.args[0]);
    };
    expect([leftOf(false), leftOf(true)]).toEqual([["mesial"], ["distal"]]);
    // In a small picture they would cover what is drawn.
    paint(pen, { ...look, ...PLACED, width: 200 });
    expect(textsOf(marks).filter((text) => text === "mesial")).toHaveLength(1);
  });

  it("finds the part under a finger, of several the smallest", () => {
    const frame: Frame = { scale: 40, place: ([x = 0, y = 0]) => [40 * x, 200 - 40 * y] };
    const parts = [
      { path: "all", low: [-3, 0], high: [3, 4] },
      { path: "box", low: [0, 0], high: [1, 3] },
    ];
    const at = (x: number, y: number) => partAt({ ...SHEET, parts }, frame, frame.place([x, y]));
    expect([at(0.5, 1), at(-1, 1), at(0.5, 3.5), at(5, 1)]).toEqual(["box", "all", "all", null]);
  });

  it("dims all but the selected one", () => {
    const { filled } = draw(SHEET, 1);
    expect([filled(ODD)[0]?.alpha, filled(EVEN)[0]?.alpha]).toEqual([1, 0.4]);
  });

  it("shows from above only the selected number, since increments lie on each other there", () => {
    const above: Sheet = { ...SHEET, view: "above" };
    expect(draw(above).texts).not.toContain("1");
    expect(draw(above, 1).texts).toContain("1");
  });

  it("moves a number off what is drawn over it, within its increment", () => {
    const frame: Frame = { scale: 40, place: ([x = 0, y = 0]) => [40 * x, 200 - 40 * y] };
    const shape = block("one", "increment", "body", 1, 0);
    expect(seatOf(shape, frame, 10, [])).toEqual([40, 140]);
    const over: Spot = { at: [50, 136], wide: 40, high: 26 };
    const [x, y] = seatOf(shape, frame, 10, [over]) ?? [0, 0];
    expect(isApart(over, { at: [x, y], wide: 20, high: 20 })).toBe(true);
    expect(incrementAt({ ...SHEET, shapes: [shape] }, frame, [x, y])).toBe(1);
    // Where there is none within, it stands beside; without any room at all it stays in the middle.
    const inIt: Spot = { at: [40, 140], wide: 80, high: 80 };
    const beside = seatOf(shape, frame, 10, [inIt]) ?? [0, 0];
    expect(isApart(inIt, { at: beside, wide: 20, high: 20 })).toBe(true);
    const everywhere: Spot = { at: [0, 0], wide: 900, high: 900 };
    expect(seatOf(shape, frame, 10, [everywhere])).toEqual([40, 140]);
  });

  it("hatches increments that follow each other differently and the last one upright", () => {
    expect(hatchOf(1, 5)).not.toEqual(hatchOf(2, 5));
    expect(hatchOf(5, 5).angle).toBe(0);
  });

  it("keeps its frame when only the cavity changes, so that a drag does not move the tooth", () => {
    const wider = {
      ...SHEET,
      shapes: [...SHEET.shapes, block("three", "increment", "body", 3, -9)],
    };
    expect(boxOf(wider)).toEqual(boxOf(SHEET));
  });
});

describe("SheetDrawing", () => {
  it("paints on the page where nothing can be painted beside it", async () => {
    const { pen, marks } = notingPen();
    vi.spyOn(HTMLCanvasElement.prototype, "getContext").mockReturnValue(pen as never);
    const { getByRole } = render(<SheetDrawing sheet={SHEET} {...PLACED} selected={null} />);
    await waitFor(() => expect(getByRole("img").dataset.painted).toBe("1"));
    expect(marks.some((m) => m.args[0] === "5 mm, lengths in mm")).toBe(true);
    vi.restoreAllMocks();
  });

  it("picks the increment that is clicked, and nothing beside it", () => {
    vi.spyOn(HTMLCanvasElement.prototype, "getContext").mockReturnValue(null);
    const picked: number[] = [];
    const { getByRole } = render(
      <SheetDrawing
        sheet={SHEET}
        {...PLACED}
        selected={null}
        onSelect={(order) => picked.push(order)}
      />,
    );
    const frame = frameFor({ sheet: SHEET, ...PLACED });
    for (const point of [
      [3, 1],
      [1, 1],
      [-3, 1],
    ]) {
      const [clientX, clientY] = frame.place(point);
      fireEvent.click(getByRole("img"), { clientX, clientY });
    }
    expect(picked).toEqual([2, 1]);
    vi.restoreAllMocks();
  });
});

describe("Dimensions", () => {
  const frame = fit({ x0: -5, x1: 5, y0: 0, y1: 8 }, [-1, -1], 500, 400, 10);
  const ROOM = { width: 500, height: 400 };
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
    deepens: false,
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
          sheet={SHEET}
          frame={frame}
          room={ROOM}
          valueOf={() => null}
          onPick={() => undefined}
          onBegin={() => undefined}
          onDrag={() => undefined}
          onChange={() => undefined}
        />
      </svg>,
    );
    const label = getByRole("button");
    expect(label.textContent).toBe(text);
    expect(label.getAttribute("aria-label")).toContain(`mesial box, height: ${text} mm, ${state}`);
  });

  it("writes each length off all others, off every end and off what is written on the drawing", () => {
    const crowded = Array.from({ length: 24 }, (_, seed) => {
      const near = (of: number) => 1.5 * Math.sin(12.9898 * (4 * seed + of));
      return (["z", "x", "z", "y"] as const).map((axis, of): Dimension => {
        const p0 = [near(of), 3 + near(of + 7)];
        const by = 0.4 + Math.abs(near(of + 3));
        const p1 = axis === "x" ? [(p0[0] ?? 0) + by, p0[1] ?? 0] : [p0[0] ?? 0, (p0[1] ?? 0) - by];
        return { ...height, case_path: `p.${of}`, axis, p0, p1 };
      });
    });
    const marks = [{ id: "clearance.0", text: "2.1 over base", at: [0, 3] }];
    for (const lengths of crowded) {
      const tags = tagsOf(lengths, { marks }, frame, ROOM);
      const slip: Spot = { at: frame.place([0, 3]), wide: 96, high: 20 };
      const spots = [...endsOf(lengths, frame), slip];
      tags.forEach((tag, i) => {
        expect([...spots, ...tags.slice(0, i)].every((spot) => isApart(tag, spot))).toBe(true);
        expect(tag.at[0] - tag.wide / 2).toBeGreaterThan(0);
        expect(tag.at[0] + tag.wide / 2).toBeLessThan(ROOM.width);
      });
    }
  });

  it("leads to the field that it shows", () => {
    const picked: string[] = [];
    const { getByRole } = render(
      <svg>
        <Dimensions
          dimensions={[height]}
          sheet={SHEET}
          frame={frame}
          room={ROOM}
          valueOf={() => null}
          onPick={(path) => picked.push(path)}
          onBegin={() => undefined}
          onDrag={() => undefined}
          onChange={() => undefined}
        />
      </svg>,
    );
    fireEvent.click(getByRole("button"));
    expect(picked).toEqual(["preparation.parts[1].height_mm"]);
  });
});
