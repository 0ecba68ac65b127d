import type { Dimension, Frame, Sheet, Xy } from "./geometry";

/** How a dimension says that it is known so. */
export const STATES = {
  measured: { dash: undefined, before: "", style: "normal" },
  estimated: { dash: "4 3", before: "about ", style: "normal" },
  handbook: { dash: "1 3", before: "handbook ", style: "italic" },
} as const;

/** How high a label is, in pixels. */
export const TAG_HIGH = 26;
/** How far around the end that is dragged a finger meets it, in pixels, and how large the other end is. */
export const GRIP = 16;
const END = 7;
/** What floats over the foot of a picture. */
const FOOT = 52;

/** A box in pixels that nothing else may cover, by its middle. */
export interface Spot {
  at: Xy;
  wide: number;
  high: number;
}

/** A label of a dimension. */
export type Tag = Spot;

/** How large a picture is, in pixels. */
export interface Room {
  width: number;
  height: number;
}

/** Whether a dimension runs up and down on the screen. */
export function isUpright(d: Dimension, frame: Frame): boolean {
  return (
    d.axis === "z" || (d.axis === "y" && Math.abs(frame.place(d.p1)[0] - frame.place(d.p0)[0]) < 1)
  );
}

export function textOf(dimension: Dimension): string {
  // What is planned is known neither better nor worse: a base is as thick as it is made.
  const isPlanned = dimension.case_path.startsWith("protection.");
  return `${isPlanned ? "" : STATES[dimension.state].before}${dimension.value.toFixed(1)}`;
}

export function isApart(a: Spot, b: Spot): boolean {
  return (
    Math.abs(a.at[0] - b.at[0]) >= (a.wide + b.wide) / 2 ||
    Math.abs(a.at[1] - b.at[1]) >= (a.high + b.high) / 2
  );
}

/** Returns the ends of lengths, the one that is dragged as large as a finger meets it. */
export function endsOf(lengths: readonly Dimension[], frame: Frame): Spot[] {
  return lengths.flatMap(({ p0, p1 }) => [
    { at: frame.place(p0), wide: 2 * END, high: 2 * END },
    { at: frame.place(p1), wide: 2 * GRIP, high: 2 * GRIP },
  ]);
}

/** How wide a label is, in pixels. */
export function tagWide(text: string): number {
  return 16 + text.length * 8.2;
}

/** Returns where the labels of the lengths stand that are drawn on a sheet: each as near to its line as it covers no
 * other, no end and nothing that is written there. */
export function tagsOf(
  lengths: readonly Dimension[],
  sheet: Pick<Sheet, "marks">,
  frame: Frame,
  room?: Room,
): Tag[] {
  const covered = [...endsOf(lengths, frame), ...slipsOf(sheet, frame)];
  return lengths.map((length) => {
    const wide = tagWide(textOf(length));
    const places = [...placesOf(length, frame, wide)].map((at) => ({ at, wide, high: TAG_HIGH }));
    const free = places.filter((tag) => !room || isWithin(tag, room));
    const tag = free.find((one) => covered.every((spot) => isApart(one, spot))) ?? places[0];
    if (!tag) throw new Error("a length without a place for its label");
    covered.push(tag);
    return tag;
  });
}

function isWithin({ at: [x, y], wide, high }: Spot, { width, height }: Room): boolean {
  const [left, top] = [x - wide / 2, y - high / 2];
  return left >= 2 && top >= 2 && left + wide <= width - 2 && top + high <= height - FOOT;
}

/** Along an upright line its label stands low, where a longer one has room of its own. */
const ALONG = { deep: [0.82, 0.5, 0.3, 0.1], upright: [0.5, 0.25, 0.75], level: [0.5, 0.15, 0.85] };
/** How far off its line a label stands at first, and by how much at a time it moves on. */
const OFF = { upright: 8, level: 20, step: 12, times: 16 };

/** Returns where the label of a length may stand, the best place first. */
function* placesOf(d: Dimension, frame: Frame, wide: number): Iterable<Xy> {
  const [x0, y0] = frame.place(d.p0);
  const [x1, y1] = frame.place(d.p1);
  const at = (share: number): Xy => [x0 + (x1 - x0) * share, y0 + (y1 - y0) * share];
  if (isUpright(d, frame)) {
    for (const off of offsFrom(OFF.upright))
      for (const side of [1, -1])
        for (const share of d.axis === "z" ? ALONG.deep : ALONG.upright)
          yield [(x0 + x1) / 2 + side * (wide / 2 + off), at(share)[1]];
    return;
  }
  // A level label stands off the cavity: beyond the length seen from above, under the floor in section.
  const isTurned = frame.place([0, -1])[1] > frame.place([0, 0])[1];
  const first = d.case_path.endsWith(".length_mm") && !isTurned ? -1 : 1;
  for (const off of offsFrom(OFF.level))
    for (const side of [first, -first])
      for (const share of ALONG.level) yield [at(share)[0], (y0 + y1) / 2 + side * off];
}

function offsFrom(first: number): number[] {
  return Array.from({ length: OFF.times }, (_, i) => first + i * OFF.step);
}

const SLIP = { high: 20, ring: 18, above: 22 };
const ON_SLIPS = ["target.", "clearance", "lean", "check."];

/** How wide a slip of text is, in pixels. */
export function slipWide(text: string): number {
  return 12 + text.length * 6.8;
}

/** Returns what is written over a sheet on slips of its own. */
function slipsOf({ marks }: Pick<Sheet, "marks">, frame: Frame): Spot[] {
  return marks
    .filter(({ id }) => ON_SLIPS.some((kind) => id.startsWith(kind)))
    .flatMap(({ id, text, at }) => {
      const [x, y] = frame.place(at);
      const slip = { at: [x, y] as Xy, wide: slipWide(text), high: SLIP.high };
      if (!id.startsWith("check.")) return [slip];
      const ring = { at: slip.at, wide: SLIP.ring, high: SLIP.ring };
      return [ring, { ...slip, at: [x, y - SLIP.above] as Xy }];
    });
}
