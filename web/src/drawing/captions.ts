import picture from "../../../practice/records/picture.json";
import { paper } from "../theme/tokens";
import { type Frame, type Xy, signs } from "./geometry";
import type { Pen } from "./hatching";
import type { Placed } from "./placing";

const FAMILY = '"Atkinson Hyperlegible Next", "DejaVu Sans", sans-serif';

/** Draws the line that was traced. */
export function stroke(pen: Pen, colour: string, weight: number, dash: readonly number[] = []) {
  pen.strokeStyle = colour;
  pen.lineWidth = weight;
  pen.setLineDash([...dash]);
  pen.stroke();
  pen.setLineDash([]);
}

export function write(
  pen: Pen,
  text: string,
  [x, y]: Xy,
  size: number,
  colour: string,
  isBold = false,
) {
  pen.font = `${isBold ? 700 : 400} ${size}px ${FAMILY}`;
  pen.fillStyle = colour;
  pen.fillText(text, x, y);
}

/** A grid of a millimeter, every fifth line heavier. */
export function grid(pen: Pen, frame: Frame, width: number, height: number) {
  const [ox, oy] = frame.place([0, 0]);
  for (const isHeavy of [false, true]) {
    pen.beginPath();
    for (let i = -24; i <= 24; i++) {
      if ((i % 5 === 0) !== isHeavy) continue;
      pen.moveTo(ox + i * frame.scale, 0);
      pen.lineTo(ox + i * frame.scale, height);
      pen.moveTo(0, oy + i * frame.scale);
      pen.lineTo(width, oy + i * frame.scale);
    }
    stroke(pen, "#e6decb", isHeavy ? 1 : 0.5);
  }
}

/** The filled outlines, from back to front. */

/** How far the words of the directions stand off the edges, the lower ones above what floats over the foot. */
const WORDS = { edge: 8, head: 20, foot: 60, narrowFoot: 112 };
/** In less room the words of the directions would cover what is drawn. */
const ROOM_FOR_WORDS = { width: 240, height: 240 };
/** In a narrower picture what floats over the foot takes two lines. */
const NARROW = 400;

/** Writes which way is mesial, distal, facial and lingual. */
export function directions(pen: Pen, { sheet, orientation, width, height }: Placed) {
  if (width < ROOM_FOR_WORDS.width || height < ROOM_FOR_WORDS.height) return;
  const [sx, sy] = signs(sheet.view, orientation);
  const [left, right] = endsOf(sheet.axes[0], sx);
  const [top, bottom] = endsOf(sheet.axes[1], sy);
  const foot = height - (width < NARROW && top === undefined ? WORDS.narrowFoot : WORDS.foot);
  // A curing light beside the tooth reaches down to the foot.
  const beside = sheet.view === "through" ? WORDS.head : foot;
  pen.textAlign = "left";
  word(pen, left, [WORDS.edge, beside]);
  pen.textAlign = "right";
  word(pen, right, [width - WORDS.edge, beside]);
  pen.textAlign = "center";
  word(pen, top, [width / 2, WORDS.head]);
  word(pen, bottom, [width / 2, foot]);
}

/** Returns what the lower and the upper end of an axis are called as they are seen; up and down need no word. */
function endsOf(axis: string | undefined, sign: number): string[] {
  const ends = ENDS[axis ?? ""] ?? [];
  return sign < 0 ? [...ends].reverse() : ends;
}

const ENDS: Record<string, string[]> = picture.ends;

/** A word over the drawing, on a halo of the paper's color. */
function word(pen: Pen, text: string | undefined, at: Xy) {
  if (!text) return;
  pen.lineWidth = 4;
  pen.lineJoin = "round";
  pen.strokeStyle = paper.desk;
  pen.font = `400 14px ${FAMILY}`;
  pen.strokeText(text, ...at);
  write(pen, text, at, 14, paper.soft);
}

/** A length to measure the picture by. */
export function scaleBar(pen: Pen, frame: Frame, height: number) {
  pen.beginPath();
  pen.moveTo(16, height - 14);
  pen.lineTo(16 + 5 * frame.scale, height - 14);
  for (let i = 0; i <= 5; i++) {
    pen.moveTo(16 + i * frame.scale, height - 18);
    pen.lineTo(16 + i * frame.scale, height - 18 + (i % 5 ? 5 : 9));
  }
  stroke(pen, paper.ink, 1.5);
  pen.textAlign = "left";
  word(pen, "5 mm, lengths in mm", [24 + 5 * frame.scale, height - 9]);
}
