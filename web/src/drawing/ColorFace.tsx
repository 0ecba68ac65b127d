import { type PointerEvent, useId } from "react";
import type { Schemas } from "../api/client";
import { paper } from "../theme/tokens";
import { LineLabel } from "./LineLabel";
import { type Frame, type Xy, pathOf } from "./geometry";

type Face = Schemas["ColorFace"];

const CROSS_PX = 9;
const HATCH_PX = 6;

interface Props {
  face: Face;
  frame: Frame;
  /** Which way through the restoration is told. */
  picked: number;
  onPick: (column: number) => void;
}

/** The color of a restoration place by place: lines of equal thickness of the layer that is seen first, where the dark of the mouth
 *  shows, where no color is predicted, and the place that is pointed at. */
export function ColorFace({ face, frame, picked, onPick }: Props) {
  const hatch = useId();
  const { columns } = face;
  const here = columns[picked];
  const [x, y] = frame.place(here?.at ?? [0, 0]);

  function point(event: PointerEvent<SVGElement>) {
    const corner = event.currentTarget.ownerSVGElement?.getBoundingClientRect();
    if (corner)
      onPick(nearest(columns, frame, [event.clientX - corner.left, event.clientY - corner.top]));
  }

  return (
    <g data-testid="color-face" fill="none">
      <pattern id={hatch} width={HATCH_PX} height={HATCH_PX} patternUnits="userSpaceOnUse">
        <path d={`M0 ${HATCH_PX}L${HATCH_PX} 0`} stroke={paper.faint} strokeWidth="0.7" />
      </pattern>
      <path
        data-color="unpredicted"
        d={pathOf(face.unpredicted, frame)}
        fill={`url(#${hatch})`}
        fillRule="evenodd"
      />
      <path
        data-color="dark"
        d={pathOf(face.dark, frame)}
        fill={paper.brick}
        fillOpacity="0.3"
        stroke={paper.brick}
        strokeWidth="1.5"
        fillRule="evenodd"
      />
      {face.lines.map(({ points }, i) => (
        <path
          key={i}
          d={pathOf([points], frame, false)}
          stroke={paper.verdigris}
          strokeWidth="2"
          strokeDasharray="7 4"
        />
      ))}
      {labelsOf(face, frame).map(({ text, at }) => (
        <LineLabel key={text} at={at} ink={paper.verdigris} text={text} />
      ))}
      <path
        d={pathOf(
          columns.map(({ at }) => cellAt(at)),
          frame,
        )}
        data-color="columns"
        fill="transparent"
        style={{ pointerEvents: "all", cursor: "crosshair", touchAction: "none" }}
        onPointerDown={point}
        onPointerMove={point}
      />
      {here && (
        <g stroke={paper.ink} strokeWidth="2.5" pointerEvents="none">
          <circle cx={x} cy={y} r={CROSS_PX} fill={paper.sheet} fillOpacity="0.75" />
          <path
            d={`M${x - CROSS_PX} ${y}h${2 * CROSS_PX}M${x} ${y - CROSS_PX}v${2 * CROSS_PX}`}
            strokeWidth="1.2"
          />
        </g>
      )}
    </g>
  );
}

/** Half as far as columns stand apart, and a little over: together they leave no gap. */
const HALF_CELL_MM = 0.22;

function cellAt([x = 0, z = 0]: readonly number[]): Xy[] {
  return [
    [x - HALF_CELL_MM, z - HALF_CELL_MM],
    [x + HALF_CELL_MM, z - HALF_CELL_MM],
    [x + HALF_CELL_MM, z + HALF_CELL_MM],
    [x - HALF_CELL_MM, z + HALF_CELL_MM],
  ];
}

/** Returns which column lies nearest to a place of the picture. */
export function nearest(columns: Face["columns"], frame: Frame, [x, y]: Xy): number {
  const away = columns.map(({ at }) => {
    const [cx, cy] = frame.place(at);
    return (cx - x) ** 2 + (cy - y) ** 2;
  });
  return away.indexOf(Math.min(...away));
}

/** Returns the column that is furthest off, of those whose color is predicted; the first where none is. */
export function worstOf(columns: Face["columns"]): number {
  const off = columns.map((one) => (one.unpredicted ? -1 : one.de00));
  return off.indexOf(Math.max(...off));
}

/** Returns how thick the layer is, once for each thickness, in the middle of its longest line. */
function labelsOf({ lines }: Face, frame: Frame): { text: string; at: Xy }[] {
  const longest = new Map<number, number[][]>();
  for (const { thickness_mm, points } of lines)
    if (points.length > (longest.get(thickness_mm)?.length ?? 0)) longest.set(thickness_mm, points);
  return [...longest].map(([mm, points]) => ({
    text: `${mm} mm`,
    at: frame.place(points[Math.floor(points.length / 2)] ?? [0, 0]),
  }));
}
