import Box from "@mui/material/Box";
import type { KeyboardEvent } from "react";
import { paper } from "../theme/tokens";
import { type Place, SURFACES, type Tooth, pathOf, surfacesOf, zoneOf } from "./teeth";

const LABEL_OFF_MM = 1.6;

interface Props {
  tooth: Tooth;
  surfaces: Set<string>;
  onToggle: (letter: string) => void;
}

/** A tooth from occlusal, in five parts that are tapped; facial is up, mesial as the chart has it. */
export function SurfacePicker({ tooth, surfaces, onToggle }: Props) {
  const { outline } = tooth;
  const half = (i: 0 | 1) => Math.max(...outline.map((p) => Math.abs(p[i])));
  const [hx, hy] = [half(0), half(1)];
  // As on the chart: of teeth on the patient's right mesial is to the right.
  const way = "1458".includes(tooth.code[0] ?? "") ? 1 : -1;
  const seen = ([x, y]: Place): Place => [way * x, -y];
  const labels: Record<string, Place> = {
    M: [hx + LABEL_OFF_MM, 0],
    D: [-hx - LABEL_OFF_MM, 0],
    F: [0, hy + LABEL_OFF_MM],
    L: [0, -hy - LABEL_OFF_MM],
    O: [0, 0],
    I: [0, 0],
  };
  const onKey = (letter: string) => (event: KeyboardEvent) => {
    if (event.key !== "Enter" && event.key !== " ") return;
    event.preventDefault();
    onToggle(letter);
  };
  return (
    <Box
      component="svg"
      viewBox={`${-hx - 8} ${-hy - 3.4} ${2 * hx + 16} ${2 * hy + 6.8}`}
      className="in-mm"
      role="group"
      aria-label={`Surfaces of ${tooth.shown}`}
      sx={{ width: "100%", maxHeight: 240, display: "block" }}
    >
      {surfacesOf(tooth).map((letter) => {
        const on = surfaces.has(letter);
        const [x, y] = seen(labels[letter] ?? [0, 0]);
        const isSide = letter === "M" || letter === "D";
        const isMiddle = letter === "O" || letter === "I";
        return (
          <g
            key={letter}
            role="checkbox"
            aria-checked={on}
            aria-label={SURFACES[letter]}
            tabIndex={0}
            onClick={() => onToggle(letter)}
            onKeyDown={onKey(letter)}
            style={{ cursor: "pointer" }}
          >
            {/* The gap between a part and its name belongs to it. */}
            {!isMiddle && (
              <rect
                x={isSide ? Math.min(x * 0.6, x * 1.9) : -hx * 0.4}
                y={isSide ? -1.2 : Math.min(y * 0.6, y * 1.3)}
                width={isSide ? Math.abs(x) * 1.3 : hx * 0.8}
                height={isSide ? 2.4 : Math.abs(y) * 0.7}
                fill="transparent"
              />
            )}
            <path
              d={pathOf(zoneOf(tooth, letter).map(seen))}
              fill={on ? paper.verdigris : paper.enamel}
              stroke={paper.ink}
              strokeWidth="0.12"
            />
            <text
              x={x}
              y={y + 0.35}
              fontSize="1.15"
              textAnchor={isSide ? (x > 0 ? "start" : "end") : "middle"}
              fill={on ? (isMiddle ? paper.sheet : paper.verdigris) : paper.soft}
              fontWeight={on ? 700 : 400}
            >
              {SURFACES[letter]}
            </text>
          </g>
        );
      })}
    </Box>
  );
}
