import { Fragment } from "react";
import type { Plan, Schemas } from "../api/client";
import type { Frame, Sheet } from "../drawing/geometry";
import { paper } from "../theme/tokens";

const HEAD_PX = 11;
/** What its label needs at the edge of the drawing. */
const LABEL_PX = 140;
/** Of the steps every so many bear their number. */
const NUMBERED = 4;

interface Props {
  plan: Plan;
  order: number | null;
  sheet: Sheet;
  frame: Frame;
}

type Stepped = Schemas["Stepped"];
type Place = [number, number];

/** How a zone of direct gold is stepped, to scale: from its face every step of the nib in order, in a section its line of force. */
export function Stepping({ plan, order, sheet, frame }: Props) {
  const detail = plan.increments.find((i) => i.order === order)?.detail;
  if (detail?.kind !== "stepped") return null;
  const isSection = sheet.axes[0] === "y" || sheet.view === "section" || sheet.view === "level";
  return isSection ? (
    <LineOfForce detail={detail} sheet={sheet} frame={frame} />
  ) : (
    <Path detail={detail} sheet={sheet} frame={frame} />
  );
}

interface OfDetail {
  detail: Stepped;
  sheet: Sheet;
  frame: Frame;
}

function placeOf(point: Schemas["Point"], sheet: Sheet, frame: Frame): Place {
  const [a, b] = sheet.axes as ["x" | "y" | "z", "x" | "y" | "z"];
  return frame.place([point[a], point[b]]);
}

function Path({ detail, sheet, frame }: OfDetail) {
  const steps = detail.path.map((point) => placeOf(point, sheet, frame));
  const r = (detail.nib_diameter_mm / 2) * frame.scale;
  const last = steps.length - 1;
  return (
    <g data-testid="stepping-path" data-steps={steps.length}>
      {steps.map(([x, y], i) => (
        <circle key={i} cx={x} cy={y} r={r} fill="none" stroke={paper.brick} strokeOpacity="0.5" />
      ))}
      <path
        d={`M${steps.map((step) => step.join(" ")).join("L")}`}
        fill="none"
        stroke={paper.ink}
        strokeWidth="1.2"
      />
      {steps.map(([x, y], i) => (
        <Fragment key={i}>
          {(i % NUMBERED === 0 || i === last) && (
            <text
              x={x}
              y={y + 4}
              textAnchor="middle"
              fontSize="12"
              fontWeight="700"
              stroke={paper.sheet}
              strokeWidth="3"
              paintOrder="stroke"
              fill={paper.ink}
            >
              {i + 1}
            </text>
          )}
        </Fragment>
      ))}
    </g>
  );
}

function LineOfForce({ detail, sheet, frame }: OfDetail) {
  const [from, to] = detail.line_of_force.map((point) => placeOf(point, sheet, frame));
  if (!from || !to) return null;
  const [dx, dy] = [to[0] - from[0], to[1] - from[1]];
  const length = Math.hypot(dx, dy) || 1;
  const [ux, uy] = [dx / length, dy / length];
  const barb = (turn: number) =>
    `${to[0] - HEAD_PX * (ux - turn * uy)} ${to[1] - HEAD_PX * (uy + turn * ux)}`;
  // The plugger ends where it stands; its shaft runs on behind.
  const wide = detail.nib_diameter_mm * frame.scale;
  const isLeft = dx > 0;
  return (
    <g data-testid="line-of-force">
      <path
        d={`M${from.join(" ")}L${to.join(" ")}`}
        stroke={paper.rule}
        strokeOpacity="0.85"
        strokeWidth={wide}
      />
      <path
        d={`M${from.join(" ")}L${to.join(" ")}M${barb(0.5)}L${to.join(" ")}L${barb(-0.5)}`}
        fill="none"
        stroke={paper.brick}
        strokeWidth="2.5"
      />
      <text
        x={isLeft ? Math.max(from[0] - 6, LABEL_PX) : from[0] + 6}
        y={from[1] - wide / 2 - 6}
        textAnchor={isLeft ? "end" : "start"}
        fontSize="15"
        fontWeight="700"
        stroke={paper.desk}
        strokeWidth="5"
        paintOrder="stroke"
        fill={paper.ink}
      >
        {detail.nib_diameter_mm} mm nib, {detail.force_n.toFixed(1)} N
      </text>
    </g>
  );
}
