import picture from "../../../practice/records/picture.json";
import { paper } from "../theme/tokens";
import {
  type Box,
  type Dimension,
  type Frame,
  type Shape,
  type Sheet,
  type Xy,
  bounds,
  frameOf,
  middleOf,
  signs,
} from "./geometry";
import { type Extent, type Pen, dots, hatch, hatchOf } from "./hatching";
import { directions, grid, scaleBar, stroke, write } from "./captions";
import { type Placed, frameFor, isBarAbove, isShownLarger } from "./placing";
import { type Spot, endsOf, isApart, slipWide, tagsOf } from "./tags";

const NUMBERS_FROM_SCALE = 14;
const BANDS_FROM_SCALE = 80;
const INSET = { edge: 10, foot: 40, head: 52 };

/** A placed sheet as it is to be seen: what is picked, what stands beside it, and how many dots a pixel has. */
export interface Look extends Placed {
  selected: number | null;
  /** What shows a place of it much larger in a corner. */
  inset?: Sheet | undefined;
  hasScaleBar: boolean;
  /** The paths of the lengths that are drawn over it. */
  lengths?: readonly string[] | undefined;
  sharpness: number;
}

/** Paints one view of a plan, to scale, in ink: the server's polygons and nothing that is not in them. */
export function paint(pen: Pen, look: Look) {
  const { sheet, width, height, selected } = look;
  const frame = frameFor(look);
  pen.clearRect(0, 0, width, height);
  grid(pen, frame, width, height);
  if (LIT.includes(sheet.view)) lamp(pen, sheet, frame);
  shapes(pen, sheet, frame, selected);
  // Lines of force are shown with the zone that they are of.
  for (const line of sheet.lines.filter(({ material }) => material !== "force")) {
    const { dash, colour, weight } = LINES[line.material] ?? PLAIN;
    trace(pen, line.rings, frame, !OPEN.includes(line.material));
    stroke(pen, colour, weight, dash);
  }
  const over = drawnOver(sheet, look.lengths);
  const covered = [...tagsOf(over, sheet, frame, look), ...endsOf(over, frame)];
  for (const one of numbersOf(sheet, frame, selected, covered))
    number(pen, one, one.order === selected);
  marks(pen, sheet, frame);
  if (look.inset) inset(pen, look, frame, look.inset);
  directions(pen, look);
  if (look.hasScaleBar) scaleBar(pen, frame, isBarAbove(sheet, look.orientation) ? 38 : height);
}

/** A tip as wide on the screen bears its output. */
const LABELLED = 110;

/** Sections that run through the lamp. */
const LIT: Sheet["view"][] = ["section", "through", "level"];

/** Views in which increments lie on each other. */
const SEEN_WHOLE: Sheet["view"][] = ["above", "facial", "lingual"];

/** The number of an increment: where its middle stands and its radius, in pixels. */
export interface Numeral {
  order: number;
  at: Xy;
  r: number;
}

/** Returns the lengths of a sheet that are drawn over it. */
export function drawnOver(
  { dimensions }: Pick<Sheet, "dimensions">,
  paths: readonly string[] = [],
): Dimension[] {
  return dimensions.filter((d) => paths.includes(d.case_path));
}

/** Returns the numbers of the increments that bear theirs, off what covers them: from above they lie on each other, so
 * only the one that is picked does. */
export function numbersOf(
  { view, shapes }: Pick<Sheet, "view" | "shapes">,
  frame: Frame,
  selected: number | null,
  covered: readonly Spot[],
): Numeral[] {
  const increments = shapes.filter((s) => s.role === "increment");
  const fewer = SEEN_WHOLE.includes(view) || frame.scale < NUMBERS_FROM_SCALE;
  const r = Math.min(11, Math.max(7.5, 0.42 * frame.scale));
  const numbers: Numeral[] = [];
  for (const shape of fewer ? increments.filter((s) => s.order === selected) : increments) {
    const seats = numbers.map((one): Spot => ({ at: one.at, wide: 2 * r, high: 2 * r }));
    const at = seatOf(shape, frame, r, [...covered, ...seats]);
    if (at) numbers.push({ order: shape.order, at, r });
  }
  return numbers;
}

/** Returns the path of the part that lies at a place in pixels, of several the smallest. */
export function partAt({ parts = [] }: Sheet, frame: Frame, [x, y]: Xy): string | null {
  const found = parts.flatMap(({ path, low, high }) => {
    const [ax, ay] = frame.place(low);
    const [bx, by] = frame.place(high);
    const isOff = (x - ax) * (x - bx) > 0 || (y - ay) * (y - by) > 0;
    return isOff ? [] : [{ path, size: Math.abs((bx - ax) * (by - ay)) }];
  });
  return found.sort((a, b) => a.size - b.size)[0]?.path ?? null;
}

/** Returns the order of the topmost increment at a place in pixels. */
export function incrementAt(sheet: Sheet, frame: Frame, at: Xy): number | null {
  const found = sheet.shapes.filter((s) => s.role === "increment" && isInside(s, frame, at));
  return found.at(-1)?.order ?? null;
}

function isInside(shape: Shape, frame: Frame, [x, y]: Xy): boolean {
  let crossings = 0;
  for (const ring of shape.rings) {
    const placed = ring.map(frame.place);
    placed.forEach(([x0, y0], i) => {
      const [x1, y1] = placed[(i + 1) % placed.length] ?? [x0, y0];
      if (y0 > y !== y1 > y && x < x0 + ((y - y0) * (x1 - x0)) / (y1 - y0)) crossings++;
    });
  }
  return crossings % 2 === 1;
}

function trace(pen: Pen, rings: Shape["rings"], frame: Frame, isClosed = true) {
  pen.beginPath();
  for (const ring of rings) {
    ring.forEach((p, i) => {
      const [x, y] = frame.place(p);
      if (i) pen.lineTo(x, y);
      else pen.moveTo(x, y);
    });
    if (isClosed) pen.closePath();
  }
}

function shapes(pen: Pen, sheet: Sheet, frame: Frame, selected: number | null) {
  const count = sheet.shapes.filter((s) => s.role === "increment").length;
  for (const shape of sheet.shapes) {
    pen.save();
    if (shape.role === "increment") {
      if (selected !== null && selected !== shape.order) pen.globalAlpha = 0.4;
      increment(pen, shape, frame, count);
    } else if (shape.role === "band") band(pen, shape, frame);
    else part(pen, shape, frame);
    pen.restore();
  }
}

function extentOf(shape: Shape, frame: Frame): Extent {
  const box = bounds([shape]);
  const [ax, ay] = frame.place([box.x0, box.y0]);
  const [bx, by] = frame.place([box.x1, box.y1]);
  return {
    x0: Math.min(ax, bx),
    x1: Math.max(ax, bx),
    y0: Math.min(ay, by),
    y1: Math.max(ay, by),
  };
}

function increment(pen: Pen, shape: Shape, frame: Frame, count: number) {
  trace(pen, shape.rings, frame);
  pen.fillStyle = picture.increments[shape.order % 2] ?? paper.sheet;
  pen.fill();
  stroke(pen, paper.ink, 1.4);
  pen.clip();
  hatch(pen, extentOf(shape, frame), hatchOf(shape.order, count));
}

function band(pen: Pen, shape: Shape, frame: Frame) {
  const isClear = shape.material === "clear";
  // Thinner than a pixel on the tooth, a band is drawn with a line of its own there.
  const line = frame.scale > BANDS_FROM_SCALE ? 0.5 : 2.4;
  trace(pen, shape.rings, frame);
  pen.fillStyle = isClear ? picture.fills.clear : picture.fills.band;
  pen.fill();
  stroke(pen, paper.ink, isClear ? 1 : line, isClear ? [3, 2] : []);
}

const FILLS: Record<string, string> = picture.fills;
/** A base is hatched both ways. */
const CROSSED = { gap: 5, opacity: 0.3 };
const EDGES: Record<string, string> = picture.edges;

function part(pen: Pen, shape: Shape, frame: Frame) {
  const isNeighbour = shape.role === "neighbour";
  if (isNeighbour) pen.globalAlpha = 0.6;
  trace(pen, shape.rings, frame);
  const fill = FILLS[shape.material];
  if (fill) {
    pen.fillStyle = fill;
    pen.fill("evenodd");
  }
  const edge = EDGES[shape.material] ?? (isNeighbour ? paper.faint : paper.ink);
  stroke(pen, edge, shape.material === "enamel" && !isNeighbour ? 1.6 : 1.1);
  if (shape.material !== "dentin" && shape.material !== "base") return;
  pen.clip("evenodd");
  if (shape.material === "dentin") dots(pen, extentOf(shape, frame));
  else for (const angle of [45, -45]) hatch(pen, extentOf(shape, frame), { ...CROSSED, angle });
}

/** Lines that do not come back to where they began. */
const OPEN = ["cervical", "sight", "target", "turning"];

interface LineLook {
  colour: string;
  weight: number;
  dash?: readonly number[];
}

const PLAIN: LineLook = { colour: paper.ink, weight: 1.1 };
const LINES: Record<string, LineLook> = {
  outline: { colour: paper.ink, weight: 2.2 },
  cervical: { colour: paper.faint, weight: 1.2, dash: [6, 4] },
  floor: { colour: paper.ink, weight: 1.1, dash: [6, 4] },
  sight: { colour: paper.ochre, weight: 1.2, dash: [10, 5] },
  target: { colour: paper.ochre, weight: 3 },
  turning: { colour: paper.brick, weight: 2 },
  contour: { colour: paper.dentinDot, weight: 1 },
};

/** By how much at a time, and how far at most, a number moves out of the middle of its increment, in pixels. */
const ASIDE = { step: 6, most: 60, turns: 16 };

/** Returns where an increment's number of a radius stands: as near to its middle as it is not covered, within the
 * increment as long as there is room, else beside it. */
export function seatOf(shape: Shape, frame: Frame, r: number, covered: readonly Spot[]): Xy | null {
  const middle = middleOf(shape);
  if (!middle) return null;
  const [x, y] = frame.place(middle);
  const isFree = (at: Xy) =>
    covered.every((spot) => isApart(spot, { at, wide: 2 * r, high: 2 * r }));
  if (isFree([x, y])) return [x, y];
  let beside: Xy | null = null;
  for (let out = ASIDE.step; out <= ASIDE.most; out += ASIDE.step)
    for (let turn = 0; turn < ASIDE.turns; turn += 1) {
      const angle = (2 * Math.PI * turn) / ASIDE.turns;
      const at: Xy = [x + out * Math.cos(angle), y + out * Math.sin(angle)];
      if (!isFree(at)) continue;
      if (isInside(shape, frame, at)) return at;
      beside ??= at;
    }
  return beside ?? [x, y];
}

function number(pen: Pen, { order, at: [x, y], r }: Numeral, isOn: boolean) {
  pen.beginPath();
  pen.arc(x, y, r, 0, 2 * Math.PI);
  pen.fillStyle = isOn ? paper.ink : paper.sheet;
  pen.fill();
  stroke(pen, paper.ink, 1.4);
  pen.textAlign = "center";
  const size = Math.max(11, 1.28 * r);
  write(pen, `${order}`, [x, y + 0.45 * r], size, isOn ? paper.sheet : paper.ink, true);
}

function lamp(pen: Pen, sheet: Sheet, frame: Frame) {
  const [left, right, worst] = ["tip.left", "tip.right", "worst"].map((id) =>
    sheet.marks.find((m) => m.id === id),
  );
  if (!left || !right || !worst) return;
  const [x0, y0] = frame.place(left.at);
  const [x1, y1] = frame.place(right.at);
  const [xw, yw] = frame.place(worst.at);
  // The tip may be held aslant: it is painted level, in a frame of its own.
  const [from, to] = x0 <= x1 ? [[x0, y0] as Xy, [x1, y1] as Xy] : [[x1, y1] as Xy, [x0, y0] as Xy];
  const tilt = Math.atan2(to[1] - from[1], to[0] - from[0]);
  pen.save();
  pen.translate(...from);
  pen.rotate(tilt);
  const [low, y, wide] = [0, 0, Math.hypot(x1 - x0, y1 - y0)];
  const below = (yw - from[1]) * Math.cos(tilt) - (xw - from[0]) * Math.sin(tilt);
  const isUp = y <= below;
  const fade = pen.createLinearGradient(0, y, 0, below);
  fade.addColorStop(0, `${paper.beam}38`);
  fade.addColorStop(1, `${paper.beam}05`);
  pen.beginPath();
  pen.moveTo(low, y);
  pen.lineTo(low + wide, y);
  pen.lineTo(low + wide - 14, below);
  pen.lineTo(low + 14, below);
  pen.closePath();
  pen.fillStyle = fade;
  pen.fill();
  pen.fillStyle = paper.ink;
  pen.fillRect(low, isUp ? y - 34 : y + 4, wide, 30);
  pen.fillStyle = paper.beam;
  pen.fillRect(low, isUp ? y - 4 : y, wide, 4);
  // To the right, where the inset does not cover it.
  pen.textAlign = "right";
  if (wide > LABELLED)
    write(pen, right.text, [low + wide - 10, isUp ? y - 14 : y + 24], 14, paper.sheet);
  pen.restore();
}

function marks(pen: Pen, sheet: Sheet, frame: Frame) {
  pen.textAlign = "center";
  for (const mark of sheet.marks) {
    const [x, y] = frame.place(mark.at);
    if (mark.id === "worst") {
      pen.beginPath();
      pen.arc(x, y, 6, 0, 2 * Math.PI);
      pen.fillStyle = paper.beam;
      pen.fill();
      stroke(pen, paper.sheet, 1.5);
    } else if (mark.id.startsWith("target.")) slip(pen, mark.text, [x, y]);
    else if (/^(clearance|lean)/.test(mark.id)) slip(pen, mark.text, [x, y]);
    else if (mark.id.startsWith("check.")) amiss(pen, mark.text, [x, y]);
    else if (!mark.id.startsWith("tip")) write(pen, mark.text, [x, y], 20, "#7d745c");
  }
}

/** The place of a check that failed, ringed, with what was measured there. */
function amiss(pen: Pen, text: string, [x, y]: Xy) {
  pen.beginPath();
  pen.arc(x, y, 9, 0, 2 * Math.PI);
  stroke(pen, paper.sheet, 5);
  pen.beginPath();
  pen.arc(x, y, 9, 0, 2 * Math.PI);
  stroke(pen, paper.brick, 2.5);
  slip(pen, text, [x, y - 22]);
}

/** A line of text on a slip of its own, to be read over hatching. */
function slip(pen: Pen, text: string, [x, y]: Xy) {
  const wide = slipWide(text);
  pen.fillStyle = paper.sheet;
  pen.fillRect(x - wide / 2, y - 10, wide, 20);
  write(pen, text, [x, y + 5], 14, paper.ink);
}

/** What is shown larger in a corner: around where, how many times larger, and on how many pixels. */
interface Nearer {
  at: Xy;
  times: number;
  width: number;
  height: number;
  /** Whether it stands on the tooth's other side. */
  isBeyond: boolean;
}

/** Returns what a sheet shows larger: the margin where band and wedge meet it, or a neck lesion. */
function nearerOf(sheet: Sheet): Nearer | null {
  if (isShownLarger(sheet)) {
    const { x0, x1, y0, y1 } = bounds(sheet.shapes.filter((s) => s.role === "increment"));
    return {
      at: [(x0 + x1) / 2, (y0 + y1) / 2],
      times: 3,
      width: 170,
      height: 220,
      isBeyond: true,
    };
  }
  const depth = sheet.dimensions.find((d) => d.case_path.endsWith(".axial_depth_mm"));
  const box = depth?.case_path.replace("axial_depth_mm", "height_mm");
  const height = sheet.dimensions.find((d) => d.case_path === box);
  const x = depth?.p0[0];
  const y = height?.p1[1];
  if (x === undefined || y === undefined) return null;
  return { at: [x, y], times: 8, width: 136, height: 96, isBeyond: false };
}

/** A place at a larger scale: what the band's thickness and the wedge do at the margin, or how a small lesion is
 * layered. It stands in the corner beside the lamp, over the neighbour. */
function inset(pen: Pen, look: Look, frame: Frame, sheet: Sheet) {
  const way = signs(look.sheet.view, look.orientation);
  const nearer = nearerOf(sheet);
  if (!nearer) return;
  const { at, times, width, height } = nearer;
  const [x, y] = at;
  const around: Box = { x0: x, x1: x, y0: y, y1: y };
  const near = frameOf(around, way, width, height, frame.scale * times);
  const [mx, my] = frame.place(at);
  const isLeft = nearer.isBeyond !== mx < look.width / 2;
  const isTop = way[1] < 0;
  const left = isLeft ? INSET.edge : look.width - width - INSET.edge;
  const top = !isTop ? look.height - INSET.foot - height : isLeft ? INSET.edge : INSET.head;
  const half = width / (2 * times);
  const tall = height / (2 * times);
  pen.beginPath();
  if (nearer.isBeyond) {
    pen.moveTo(isLeft ? mx - half : mx + half, my);
    pen.lineTo(isLeft ? left + width : left, my);
  } else {
    pen.moveTo(mx, my + (isTop ? -tall : tall));
    pen.lineTo(left + width / 2, isTop ? top + height : top);
  }
  stroke(pen, paper.faint, 1);
  pen.beginPath();
  pen.rect(mx - half, my - tall, 2 * half, 2 * tall);
  stroke(pen, paper.ink, 1);
  pen.save();
  pen.translate(left, top);
  pen.beginPath();
  pen.rect(0, 0, width, height);
  pen.fillStyle = paper.desk;
  pen.fill();
  pen.save();
  pen.clip();
  shapes(pen, sheet, near, null);
  if (isShownLarger(sheet))
    for (const one of numbersOf(sheet, near, null, [])) number(pen, one, false);
  pen.restore();
  pen.beginPath();
  pen.rect(0, 0, width, height);
  stroke(pen, paper.ink, 1);
  pen.fillStyle = paper.sheet;
  pen.fillRect(1, 1, 98, 22);
  pen.textAlign = "left";
  write(pen, `magnified ${times} ×`, [8, 17], 14, paper.ink);
  pen.restore();
}
