import { paper } from "../theme/tokens";
import type { Xy } from "./geometry";

interface Props {
  at: Xy;
  ink: string;
  text: string;
}

/** What a line in a drawing stands for, written on it. */
export function LineLabel({ at: [x, y], ink, text }: Props) {
  return (
    <text
      x={x}
      y={y + 5}
      fontSize="14"
      fontWeight="700"
      textAnchor="middle"
      fill={ink}
      stroke={paper.sheet}
      strokeWidth="4"
      paintOrder="stroke"
    >
      {text}
    </text>
  );
}
