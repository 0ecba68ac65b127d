import picture from "../../../practice/records/picture.json";
import type { Schemas } from "../api/client";

export type Sheet = Schemas["Sheet"];
export type Shape = Schemas["Shape"];
export type Dimension = Schemas["Dimension"];
export type Xy = [number, number];

/** A stretch of millimetres in both directions. */
export interface Box {
  x0: number;
  x1: number;
  y0: number;
  y1: number;
}

/** Where a millimetre point falls on the screen. */
export interface Frame {
  scale: number;
  place: (p: readonly number[]) => Xy;
}

export interface Orientation {
  mirrored: boolean;
  upper: boolean;
}

/**
 * Signs that turn the computed frame into what is seen from the cheek, of a lingual face from the tongue:
 * mesial to the left in the lower left jaw, upper crowns hanging down.
 */
export function signs(view: string, { mirrored, upper }: Orientation): Xy {
  const up = upper ? 1 : -1;
  const turn = SIGNS[view] ?? picture.signs.through;
  return [turn.across * up * (mirrored ? -1 : 1) + turn.ahead, turn.up * up];
}

/** What turns with the tooth and what always looks one way, in every view; the printed record reads the same. */
const SIGNS: Record<string, { across: number; ahead: number; up: number }> = picture.signs;

/** Returns the pixels a millimetre at which a box fits into a width and height, margins left. */
export function scaleFor(box: Box, width: number, height: number, margin: number): number {
  return Math.min(
    (width - 2 * margin) / (box.x1 - box.x0),
    (height - 2 * margin) / (box.y1 - box.y0),
  );
}

/** Returns the frame that puts a box of millimetres in the middle of a width and height of pixels. */
export function frameOf(
  box: Box,
  [sx, sy]: Xy,
  width: number,
  height: number,
  scale: number,
): Frame {
  const cx = (box.x0 + box.x1) / 2;
  const cy = (box.y0 + box.y1) / 2;
  return {
    scale,
    place: (p) => [
      width / 2 + sx * scale * ((p[0] ?? 0) - cx),
      height / 2 + sy * scale * ((p[1] ?? 0) - cy),
    ],
  };
}

/** Returns the frame that fits a box of millimetres into a width and height of pixels. */
export function fit(box: Box, way: Xy, width: number, height: number, margin: number): Frame {
  return frameOf(box, way, width, height, scaleFor(box, width, height, margin));
}

/** Returns the box of millimetres around some shapes. */
export function bounds(shapes: readonly Shape[]): Box {
  const points = shapes.flatMap((s) => s.rings.flat());
  const xs = points.map((p) => p[0] ?? 0);
  const ys = points.map((p) => p[1] ?? 0);
  if (points.length === 0) return { x0: -5, x1: 5, y0: -5, y1: 5 };
  return { x0: Math.min(...xs), x1: Math.max(...xs), y0: Math.min(...ys), y1: Math.max(...ys) };
}

/** Returns an SVG path of rings. */
export function pathOf(
  rings: readonly (readonly number[][])[],
  frame: Frame,
  closed = true,
): string {
  return rings
    .map((ring) => {
      const points = ring.map((p) =>
        frame
          .place(p)
          .map((v) => v.toFixed(1))
          .join(" "),
      );
      return `M${points.join("L")}${closed ? "Z" : ""}`;
    })
    .join("");
}

/** Returns the middle of a shape's largest ring, by area. */
export function middleOf(shape: Shape): Xy | null {
  let best: { area: number; at: Xy } | null = null;
  for (const ring of shape.rings) {
    let area = 0;
    let x = 0;
    let y = 0;
    ring.forEach((p, i) => {
      const q = ring[(i + 1) % ring.length] ?? p;
      const cross = (p[0] ?? 0) * (q[1] ?? 0) - (q[0] ?? 0) * (p[1] ?? 0);
      area += cross / 2;
      x += (((p[0] ?? 0) + (q[0] ?? 0)) * cross) / 6;
      y += (((p[1] ?? 0) + (q[1] ?? 0)) * cross) / 6;
    });
    if (Math.abs(area) > Math.abs(best?.area ?? 0)) best = { area, at: [x / area, y / area] };
  }
  return best?.at ?? null;
}
