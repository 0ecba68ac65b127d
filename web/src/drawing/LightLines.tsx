import type { Schemas } from "../api/client";
import { paper } from "../theme/tokens";
import { LineLabel } from "./LineLabel";
import { type Dimension, type Frame, type Sheet, type Xy, pathOf } from "./geometry";
import { type Numeral, numbersOf } from "./paint";
import { type Room, type Tag, TAG_HIGH, endsOf, tagsOf } from "./tags";

const ROOM: Xy = [30, 17];
// Where along a line its label may stand, best first.
const ALONG = [0.25, 0.5, 0.75, 0.1, 0.9, 0.4, 0.6, 0.35, 0.65, 0.2, 0.8];
// On a narrower portion the words would cover it.
const LEAST_WIDE_PX = 60;

type Line = Schemas["LightLine"];

interface Props {
  lines: Line[];
  /** Whose labels are not to be covered. */
  dimensions: Dimension[];
  /** What they are drawn on, and the increment that is picked there: its numbers are not to be covered either. */
  sheet: Sheet;
  selected: number | null;
  frame: Frame;
  room: Room;
}

/** Lines on which the light brings so many times the required exposure. */
export function LightLines({ lines, dimensions, sheet, selected, frame, room }: Props) {
  // While a grip is dragged there are none.
  const isBare = lines.length === 0;
  const tags = isBare ? [] : tagsOf(dimensions, sheet, frame, room);
  const covered = [...tags, ...endsOf(dimensions, frame)];
  const numbers = isBare ? [] : numbersOf(sheet, frame, selected, covered);
  return (
    <g data-testid="light-lines" fill="none" stroke={paper.beam}>
      {lines.map((line, i) => (
        <path
          key={i}
          d={pathOf([line.points], frame, isClosed(line.points))}
          strokeWidth={line.times_need < 2 ? 2.2 : 1.3}
        />
      ))}
      {labels(lines, frame, tags, numbers).map(({ text, at }) => (
        <LineLabel key={at.join()} at={at} ink={paper.beam} text={text} />
      ))}
    </g>
  );
}

/** Returns what stands along each line, the dimmest first, where there is room for it. */
export function labels(
  lines: Line[],
  frame: Frame,
  tags: Tag[],
  numbers: Numeral[],
): { text: string; at: Xy }[] {
  const put: { text: string; at: Xy }[] = [];
  const xs = lines.flatMap((line) => line.points.map((p) => frame.place(p)[0]));
  if (Math.max(...xs) - Math.min(...xs) < LEAST_WIDE_PX) return put;
  for (const line of [...lines].sort((a, b) => a.times_need - b.times_need)) {
    // The first one says what is counted.
    const text = `${line.times_need} ×${put.length === 0 ? " required" : ""}`;
    const half = 4.2 * text.length;
    const isFree = ([x, y]: Xy) =>
      put.every(({ at }) => Math.abs(at[0] - x) > ROOM[0] || Math.abs(at[1] - y) > ROOM[1]) &&
      tags.every(
        ({ at, wide }) =>
          Math.abs(at[0] - x) > wide / 2 + half || Math.abs(at[1] - y) > (TAG_HIGH + ROOM[1]) / 2,
      ) &&
      numbers.every(
        ({ at, r }) => Math.abs(at[0] - x) > r + half || Math.abs(at[1] - y) > r + ROOM[1] / 2,
      );
    const places = ALONG.map((share) =>
      frame.place(line.points[Math.floor(line.points.length * share)] ?? [0, 0]),
    );
    const at = places.find(isFree);
    if (at) put.push({ text, at });
  }
  return put;
}

function isClosed(points: number[][]): boolean {
  const [first, last] = [points[0], points.at(-1)];
  return first?.[0] === last?.[0] && first?.[1] === last?.[1];
}
