import type { Pen } from "./hatching";
import { type Look, paint } from "./paint";

/** A picture that was asked for. */
export interface Painted {
  id: number;
  /** Nothing where this browser can't paint beside the page. */
  picture: ImageBitmap | null;
}

/** Sizes a canvas for a look, and paints it. */
export function fit(canvas: { width: number; height: number }, pen: Pen, look: Look) {
  canvas.width = Math.round(look.width * look.sharpness);
  canvas.height = Math.round(look.height * look.sharpness);
  pen.setTransform(look.sharpness, 0, 0, look.sharpness, 0, 0);
  paint(pen, look);
}
