import type { Plan } from "../api/client";
import type { Frame, Sheet } from "../drawing/geometry";
import { bounds } from "../drawing/geometry";
import { paper } from "../theme/tokens";

const HIGH_MM = 1.1;
const SHAFT_MM = 4;
const SHAFT_SHARE = 0.45;

interface Props {
  plan: Plan;
  order: number | null;
  sheet: Sheet;
  frame: Frame;
}

/** The nib that packs an increment, to scale: standing on it in a section, as a ring seen from above. */
export function Nib({ plan, order, sheet, frame }: Props) {
  const one = plan.increments.find((i) => i.order === order);
  const shapes = sheet.shapes.filter((s) => s.role === "increment" && s.order === order);
  if (one?.detail.kind !== "condensed" || shapes.length === 0) return null;
  const { nib_diameter_mm: wide, force_n: force } = one.detail;
  const box = bounds(shapes);
  const x = (box.x0 + box.x1) / 2;
  if (sheet.view === "above") {
    const [cx, cy] = frame.place([x, (box.y0 + box.y1) / 2]);
    return (
      <circle
        cx={cx}
        cy={cy}
        r={(wide / 2) * frame.scale}
        fill="none"
        stroke={paper.brick}
        strokeWidth="2.5"
        data-testid="nib"
      />
    );
  }
  const corners = (half: number, low: number, high: number) =>
    [
      [x - half, low],
      [x + half, low],
      [x + half, high],
      [x - half, high],
    ]
      .map((p) => frame.place(p).join(" "))
      .join("L");
  const top = box.y1 + HIGH_MM;
  const [tx, ty] = frame.place([x + wide / 2 + 0.3, top + SHAFT_MM / 2]);
  return (
    <g data-testid="nib" stroke={paper.ink} strokeWidth="1.6" fill={paper.rule} fillOpacity="0.85">
      <path d={`M${corners((wide / 2) * SHAFT_SHARE, top, top + SHAFT_MM)}Z`} />
      <path d={`M${corners(wide / 2, box.y1, top)}Z`} />
      <text
        x={tx}
        y={ty}
        fontSize="15"
        fontWeight="700"
        stroke={paper.desk}
        strokeWidth="5"
        paintOrder="stroke"
        fill={paper.ink}
      >
        {wide} mm nib, {Math.round(force)} N
      </text>
    </g>
  );
}
