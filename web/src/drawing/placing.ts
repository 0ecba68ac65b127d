import {
  type Box,
  type Frame,
  type Orientation,
  type Sheet,
  type Xy,
  bounds,
  frameOf,
  scaleFor,
  signs,
} from "./geometry";

const FOOT = 48;
/** Views of what is entered from a face, and how far down the root they show, in mm. */
const OF_FACE: Sheet["view"][] = ["through", "facial", "lingual"];
const ROOT = -3.6;
const BESIDE = 8;
const ROOM = 2.8;
export const MARGIN = 22;

/** Which sheet is drawn, how large, and of what. */
export interface Placed {
  sheet: Sheet;
  orientation: Orientation;
  width: number;
  height: number;
  /** The millimetres to show, where several drawings share a scale. */
  box?: Box | undefined;
  /** Pixels a millimetre; left out, what fits. */
  scale?: number | undefined;
}

/** Returns where the millimetres of a placed sheet fall. */
export function frameFor({ sheet, orientation, width, height, box, scale }: Placed): Frame {
  const shown = box ?? boxOf(sheet);
  // Only the section has root to spare below; elsewhere room is kept for what floats over the foot.
  const free = height - (sheet.view === "section" ? 0 : FOOT);
  const way = signs(sheet.view, orientation);
  return frameOf(shown, way, width, free, scale ?? scaleFor(shown, width, free, MARGIN));
}

/** Whether a section is of something small, which it shows larger beside: its own measure tells. */
export function isShownLarger(sheet: Sheet): boolean {
  return sheet.view === "through" && sheet.dimensions.length > 0 && !sheet.window;
}

/** On which side of its tooth a lesion lies: negative towards the lower end of x. */
function sideOf(sheet: Sheet, tooth: Box): number {
  const [x = 0] = sheet.dimensions[0]?.p0 ?? [];
  return x - (tooth.x0 + tooth.x1) / 2;
}

/** Whether the scale bar stands above: a lamp beside an upper crown reaches down to where it stands otherwise. */
export function isBarAbove(sheet: Sheet, { upper }: Orientation): boolean {
  return sheet.view === "through" && upper;
}

/** Returns the millimetres worth showing: the tooth, half of each neighbour, and the lamp's tip. It goes by
 * what no measurement moves, so that the picture stands still while one is dragged. */
export function boxOf(sheet: Sheet): Box {
  const [low, high] = sheet.window ?? [];
  if (low && high) return { x0: low[0] ?? 0, y0: low[1] ?? 0, x1: high[0] ?? 0, y1: high[1] ?? 0 };
  const outline = sheet.lines.filter((line) => line.material === "outline");
  const own = bounds(outline.length > 0 ? outline : sheet.shapes.filter((s) => s.id === "tooth"));
  const tip = sheet.marks.filter((m) => m.id.startsWith("tip."));
  if (sheet.view !== "section") {
    // The lamp stands beside the tooth, and what shows a small lesion larger on its other side.
    const lamp = tip.map((m): Xy => [m.at[0] ?? 0, m.at[1] ?? 0]);
    const [lampX = 0] = lamp.map(([x]) => x);
    const beyond = isShownLarger(sheet) ? BESIDE : 1.2;
    // Without a lamp the room is made on the side that the lesion does not open to.
    const opens = lampX || (isShownLarger(sheet) ? sideOf(sheet, own) : 0);
    // Seen from a face, lengths stand beside the tooth.
    const edge = sheet.view === "facial" || sheet.view === "lingual" ? ROOM : 1.2;
    const ys = sheet.view === "level" ? lamp.map(([, y]) => y) : [];
    return {
      x0: Math.min(own.x0, lampX) - (opens > 0 ? beyond : edge),
      x1: Math.max(own.x1, lampX) + (opens < 0 ? beyond : edge),
      y0: OF_FACE.includes(sheet.view) ? ROOT : Math.min(own.y0, ...ys) - 1.6,
      y1: Math.max(own.y1, ...ys) + (ys.length > 0 ? 1.6 : 0.8),
    };
  }
  const beside = sheet.shapes.filter((s) => s.role === "neighbour");
  const all = bounds([...beside, ...outline]);
  const rim = tip.map((m) => m.at[1] ?? own.y1);
  return {
    x0: Math.max(all.x0, own.x0 - 5.5),
    x1: Math.min(all.x1, own.x1 + 5.5),
    y0: -2,
    y1: Math.max(...rim, own.y1) + 1.5,
  };
}
