import type { Schemas } from "../api/client";
import { paper } from "../theme/tokens";
import { type Frame, pathOf } from "./geometry";

interface Props {
  lines: Schemas["LightLine"][];
  frame: Frame;
}

/** Lines on which the light brings so many times the dose that is needed. */
export function LightLines({ lines, frame }: Props) {
  const labelled = new Set<string>();
  return (
    <g data-testid="light-lines" fill="none" stroke={paper.beam}>
      {lines.map((line, i) => {
        const times = `${line.order} ${line.times_need}`;
        const isFirst = !labelled.has(times);
        labelled.add(times);
        const [x, y] = frame.place(line.points[Math.floor(line.points.length / 2)] ?? [0, 0]);
        return (
          <g key={i}>
            <path
              d={pathOf([line.points], frame, isClosed(line.points))}
              strokeWidth={line.times_need < 2 ? 2.2 : 1.3}
            />
            {isFirst && (
              <text
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
                {line.times_need}×
              </text>
            )}
          </g>
        );
      })}
    </g>
  );
}

function isClosed(points: number[][]): boolean {
  const [first, last] = [points[0], points.at(-1)];
  return first?.[0] === last?.[0] && first?.[1] === last?.[1];
}
