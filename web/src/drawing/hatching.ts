import { paper } from "../theme/tokens";

/** What pictures are painted with. */
export type Pen = CanvasRenderingContext2D | OffscreenCanvasRenderingContext2D;

/** How one increment is hatched: the angle of its lines (degrees), their distance in pixels, how strongly. */
export interface Hatch {
  angle: number;
  gap: number;
  opacity: number;
}

const BY_TURNS: readonly Hatch[] = [
  { angle: 45, gap: 7, opacity: 0.6 },
  { angle: -45, gap: 7, opacity: 0.5 },
  { angle: 20, gap: 9, opacity: 0.5 },
  { angle: -20, gap: 9, opacity: 0.5 },
];
const LAST: Hatch = { angle: 0, gap: 5, opacity: 0.35 };
const DOT_GAP = 7;
const DOT = 1.4;

/** Hatch angles alternate from increment to increment; the last layer is hatched upright. */
export function hatchOf(order: number, count: number): Hatch {
  return (order === count ? undefined : BY_TURNS[(order - 1) % BY_TURNS.length]) ?? LAST;
}

/** A stretch of the picture in pixels. */
export interface Extent {
  x0: number;
  x1: number;
  y0: number;
  y1: number;
}

/** Draws the lines of a hatch over a stretch, on a raster that all shapes share. */
export function hatch(pen: Pen, over: Extent, { angle, gap, opacity }: Hatch) {
  const turn = (angle * Math.PI) / 180;
  const [cos, sin] = [Math.cos(turn), Math.sin(turn)];
  // Across the lines and along them.
  const corners = [over.x0, over.x1].flatMap((x) => [over.y0, over.y1].map((y) => [x, y] as const));
  const across = corners.map(([x, y]) => x * cos + y * sin);
  const along = corners.map(([x, y]) => y * cos - x * sin);
  const [from, to] = [Math.min(...along), Math.max(...along)];
  pen.beginPath();
  for (let i = Math.floor(Math.min(...across) / gap); i * gap <= Math.max(...across); i++) {
    const at = i * gap;
    pen.moveTo(at * cos - from * sin, at * sin + from * cos);
    pen.lineTo(at * cos - to * sin, at * sin + to * cos);
  }
  pen.strokeStyle = paper.ink;
  pen.lineWidth = 0.9;
  pen.globalAlpha *= opacity;
  pen.stroke();
}

/** Draws the dots of dentin over a stretch. */
export function dots(pen: Pen, over: Extent) {
  pen.beginPath();
  for (let x = Math.floor(over.x0 / DOT_GAP) * DOT_GAP; x <= over.x1; x += DOT_GAP)
    for (let y = Math.floor(over.y0 / DOT_GAP) * DOT_GAP; y <= over.y1; y += DOT_GAP)
      pen.rect(x + 1.3, y + 1.3, DOT, DOT);
  pen.fillStyle = paper.dentinDot;
  pen.fill();
}
