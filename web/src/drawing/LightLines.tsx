import type { Schemas } from "../api/client";
import { paper } from "../theme/tokens";
import { type Frame, type Xy, pathOf } from "./geometry";

const ROOM: Xy = [30, 17];
// On a narrower portion the words would cover it.
const LEAST_WIDE_PX = 60;

type Line = Schemas["LightLine"];

interface Props {
  lines: Line[];
  frame: Frame;
}

/** Lines on which the light brings so many times the dose that is needed. */
export function LightLines({ lines, frame }: Props) {
  return (
    <g data-testid="light-lines" fill="none" stroke={paper.beam}>
      {lines.map((line, i) => (
        <path
          key={i}
          d={pathOf([line.points], frame, isClosed(line.points))}
          strokeWidth={line.times_need < 2 ? 2.2 : 1.3}
        />
      ))}
      {labels(lines, frame).map(({ text, at: [x, y] }) => (
        <text
          key={`${x} ${y}`}
          x={x}
          y={y + 5}
          fontSize="14"
          fontWeight="700"
          textAnchor="middle"
          fill={paper.beam}
          stroke={paper.sheet}
          strokeWidth="4"
          paintOrder="stroke"
        >
          {text}
        </text>
      ))}
    </g>
  );
}

/** Returns what stands a quarter along each line, the dimmest first, where there is room for it. */
export function labels(lines: Line[], frame: Frame): { text: string; at: Xy }[] {
  const put: { text: string; at: Xy }[] = [];
  const xs = lines.flatMap((line) => line.points.map((p) => frame.place(p)[0]));
  if (Math.max(...xs) - Math.min(...xs) < LEAST_WIDE_PX) return put;
  for (const line of [...lines].sort((a, b) => a.times_need - b.times_need)) {
    const at = frame.place(line.points[Math.floor(line.points.length / 4)] ?? [0, 0]);
    const isFree = put.every(
      (other) => Math.abs(other.at[0] - at[0]) > ROOM[0] || Math.abs(other.at[1] - at[1]) > ROOM[1],
    );
    // The first one says what is counted.
    const unit = put.length === 0 ? " need" : "";
    if (isFree) put.push({ text: `${line.times_need}\u00d7${unit}`, at });
  }
  return put;
}

function isClosed(points: number[][]): boolean {
  const [first, last] = [points[0], points.at(-1)];
  return first?.[0] === last?.[0] && first?.[1] === last?.[1];
}
