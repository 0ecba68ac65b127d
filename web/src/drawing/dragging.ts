import type { Dimension, Frame, Xy } from "./geometry";

/** The unit vector on the screen along which a dimension's far end moves, outward. */
function outward(d: Dimension, frame: Frame): Xy {
  const [x0, y0] = frame.place(d.p0);
  const [x1, y1] = frame.place(d.p1);
  const length = Math.hypot(x1 - x0, y1 - y0) || 1;
  return [(x1 - x0) / length, (y1 - y0) / length];
}

function snapped(d: Dimension, value: number): number {
  const steps = Math.round(value / d.step);
  return Number(Math.min(d.max, Math.max(d.min, steps * d.step)).toFixed(3));
}

/** Returns the value after its far end was dragged by some pixels; snapped and within its bounds. */
export function dragged(d: Dimension, [dx, dy]: Xy, frame: Frame): number {
  const [ux, uy] = outward(d, frame);
  const ends = d.both_ends ? 2 : 1;
  return snapped(d, d.value + (ends * (dx * ux + dy * uy)) / frame.scale);
}

/** Returns the value after a key: arrows by a step, with Shift by five; null for any other key. */
export function stepped(d: Dimension, key: string, shift: boolean): number | null {
  const sign = { ArrowUp: 1, ArrowRight: 1, ArrowDown: -1, ArrowLeft: -1 }[key];
  return sign ? snapped(d, d.value + sign * d.step * (shift ? 5 : 1)) : null;
}

/** Returns where the far end of a dimension stands on the screen for another value. */
export function movedEnd(d: Dimension, value: number, frame: Frame): Xy {
  const [ux, uy] = outward(d, frame);
  const [x1, y1] = frame.place(d.p1);
  const by = ((value - d.value) * frame.scale) / (d.both_ends ? 2 : 1);
  return [x1 + by * ux, y1 + by * uy];
}
