import type { Dimension, Frame, Xy } from "./geometry";

/** How a dimension says that it is known so. */
export const STATES = {
  measured: { dash: undefined, before: "", style: "normal" },
  estimated: { dash: "4 3", before: "about ", style: "normal" },
  handbook: { dash: "1 3", before: "handbook ", style: "italic" },
} as const;

/** How high a label is, in pixels. */
export const TAG_HIGH = 26;

/** Where a dimension's label stands and how wide it is. */
export interface Tag {
  at: Xy;
  wide: number;
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

/** Returns where the label of a dimension stands. */
export function tagOf(d: Dimension, frame: Frame, text = textOf(d)): Tag {
  const [x0, y0] = frame.place(d.p0);
  const [x1, y1] = frame.place(d.p1);
  const wide = 16 + text.length * 8.2;
  const upright = isUpright(d, frame);
  const x = (x0 + x1) / 2 + (upright ? wide / 2 + 8 : 0);
  // Upright labels sit low on their line, where the longer one has room of its own.
  // A level label stands off the cavity: beyond the length seen from above, under the floor in section.
  const isTurned = frame.place([0, -1])[1] > frame.place([0, 0])[1];
  const off = d.case_path.endsWith(".length_mm") && !isTurned ? -20 : 20;
  const y = upright ? y0 + (y1 - y0) * (d.axis === "z" ? 0.82 : 0.5) : (y0 + y1) / 2 + off;
  return { at: [x, y], wide };
}
