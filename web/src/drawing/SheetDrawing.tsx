import type { ReactNode, SVGProps } from "react";
import { paper } from "../theme/tokens";
import {
  type Frame,
  type Orientation,
  type Shape,
  type Sheet,
  bounds,
  fit,
  middleOf,
  pathOf,
  signs,
} from "./geometry";
import { Hatches, hatchOf } from "./Hatches";

const FOOT = 48;

interface Props {
  sheet: Sheet;
  orientation: Orientation;
  width: number;
  height: number;
  selected: number | null;
  onSelect: (order: number) => void;
  overlay?: (frame: Frame) => ReactNode;
}

/** One view of a plan, to scale, in ink: the server's polygons and nothing that is not in them. */
export function SheetDrawing({
  sheet,
  orientation,
  width,
  height,
  selected,
  onSelect,
  overlay,
}: Props) {
  const box = boxOf(sheet);
  // Only the section has root to spare below; elsewhere room is kept for what floats over the foot.
  const foot = sheet.view === "section" ? 0 : FOOT;
  const frame = fit(box, signs(sheet.view, orientation), width, height - foot, 22);
  const increments = sheet.shapes.filter((s) => s.role === "increment");
  // From above the portions lie on each other: only the selected one bears its number there.
  const numbered =
    sheet.view === "above" ? increments.filter((s) => s.order === selected) : increments;
  return (
    <svg
      width={width}
      height={height}
      viewBox={`0 0 ${width} ${height}`}
      role="group"
      aria-label={`Drawing: ${sheet.title}`}
      style={{ display: "block" }}
    >
      <Hatches />
      <Grid frame={frame} width={width} height={height} />
      {sheet.view === "section" && <Lamp sheet={sheet} frame={frame} />}
      {sheet.shapes.map((shape) =>
        shape.role === "increment" ? (
          <Increment
            key={shape.id}
            shape={shape}
            frame={frame}
            count={increments.length}
            dimmed={selected !== null && selected !== shape.order}
            onSelect={onSelect}
          />
        ) : (
          <Part key={shape.id} shape={shape} frame={frame} />
        ),
      )}
      {sheet.lines.map((line) => (
        <path
          key={line.id}
          d={pathOf(line.rings, frame, line.material !== "cervical")}
          fill="none"
          {...LINES[line.material]}
        />
      ))}
      {numbered.map((shape) => (
        <Number
          key={shape.id}
          shape={shape}
          frame={frame}
          onSelect={onSelect}
          isOn={selected === shape.order}
        />
      ))}
      <Marks sheet={sheet} frame={frame} />
      {overlay?.(frame)}
      <ScaleBar frame={frame} height={height} />
    </svg>
  );
}

/** Returns the millimetres worth showing: the tooth, half of each neighbour, and the lamp's tip. */
function boxOf(sheet: Sheet) {
  const own = bounds(sheet.shapes.filter((s) => s.role !== "neighbour"));
  if (sheet.view !== "section") {
    return { x0: own.x0 - 1.2, x1: own.x1 + 1.2, y0: own.y0 - 1.6, y1: own.y1 + 0.8 };
  }
  const beside = sheet.shapes.filter((s) => s.role === "neighbour");
  const all = bounds([...beside, ...sheet.shapes]);
  const tip = sheet.marks.find((m) => m.id === "tip.left")?.at[1] ?? own.y1;
  return {
    x0: Math.max(all.x0, own.x0 - 5.5),
    x1: Math.min(all.x1, own.x1 + 5.5),
    y0: -2,
    y1: tip + 1.5,
  };
}

function Grid({ frame, width, height }: { frame: Frame; width: number; height: number }) {
  const [ox, oy] = frame.place([0, 0]);
  const lines: ReactNode[] = [];
  for (let i = -24; i <= 24; i++) {
    const x = ox + i * frame.scale;
    const y = oy + i * frame.scale;
    const heavy = i % 5 === 0 ? 1 : 0.5;
    if (x > 0 && x < width)
      lines.push(<path key={`x${i}`} d={`M${x} 0V${height}`} strokeWidth={heavy} />);
    if (y > 0 && y < height)
      lines.push(<path key={`y${i}`} d={`M0 ${y}H${width}`} strokeWidth={heavy} />);
  }
  return <g stroke="#e6decb">{lines}</g>;
}

const LINES: Record<string, SVGProps<SVGPathElement>> = {
  outline: { stroke: paper.ink, strokeWidth: 2.2 },
  cervical: { stroke: paper.faint, strokeWidth: 1.2, strokeDasharray: "6 4" },
  floor: { stroke: paper.ink, strokeWidth: 1.1, strokeDasharray: "6 4" },
  contour: { stroke: paper.dentinDot, strokeWidth: 1 },
};

const FILLS: Record<string, string> = {
  enamel: paper.enamel,
  dentin: paper.dentin,
  pulp: paper.pulp,
  wedge: paper.wedge,
  air: paper.sheet,
};

function Part({ shape, frame }: { shape: Shape; frame: Frame }) {
  const d = pathOf(shape.rings, frame);
  if (shape.role === "band") {
    const clear = shape.material === "clear";
    return (
      <path
        d={d}
        fill={clear ? paper.sheet : paper.ink}
        stroke={paper.ink}
        strokeWidth={clear ? 1 : 2.4}
        strokeDasharray={clear ? "3 2" : undefined}
      />
    );
  }
  const neighbour = shape.role === "neighbour";
  const stroke = { wedge: paper.wedgeLine, pulp: "#b98d80", dentin: paper.dentinDot }[
    shape.material
  ];
  return (
    <g opacity={neighbour ? 0.6 : 1}>
      <path
        d={d}
        fill={FILLS[shape.material] ?? "none"}
        fillRule="evenodd"
        stroke={stroke ?? (neighbour ? paper.faint : paper.ink)}
        strokeWidth={shape.material === "enamel" && !neighbour ? 1.6 : 1.1}
      />
      {shape.material === "dentin" && <path d={d} fill="url(#dentin-dots)" fillRule="evenodd" />}
    </g>
  );
}

interface IncrementProps {
  shape: Shape;
  frame: Frame;
  count: number;
  dimmed: boolean;
  onSelect: (order: number) => void;
}

function Increment({ shape, frame, count, dimmed, onSelect }: IncrementProps) {
  const d = pathOf(shape.rings, frame);
  return (
    <g
      opacity={dimmed ? 0.4 : 1}
      onClick={() => onSelect(shape.order)}
      style={{ cursor: "pointer" }}
    >
      <path d={d} fill={shape.order % 2 ? "#d3e1dc" : "#e6ece6"} />
      <path
        d={d}
        fill={hatchOf(shape.order, count)}
        stroke={paper.ink}
        strokeWidth="1.4"
        data-increment={shape.order}
      />
    </g>
  );
}

function Number({
  shape,
  frame,
  onSelect,
  isOn,
}: {
  shape: Shape;
  frame: Frame;
  onSelect: (order: number) => void;
  isOn: boolean;
}) {
  const middle = middleOf(shape);
  if (!middle) return null;
  const [x, y] = frame.place(middle);
  return (
    <g onClick={() => onSelect(shape.order)} style={{ cursor: "pointer" }}>
      <circle
        cx={x}
        cy={y}
        r="11"
        fill={isOn ? paper.ink : paper.sheet}
        stroke={paper.ink}
        strokeWidth="1.4"
      />
      <text
        x={x}
        y={y + 5}
        fontSize="14"
        fontWeight="700"
        textAnchor="middle"
        fill={isOn ? paper.sheet : paper.ink}
      >
        {shape.order}
      </text>
    </g>
  );
}

function Lamp({ sheet, frame }: { sheet: Sheet; frame: Frame }) {
  const left = sheet.marks.find((m) => m.id === "tip.left");
  const right = sheet.marks.find((m) => m.id === "tip.right");
  const worst = sheet.marks.find((m) => m.id === "worst");
  if (!left || !right || !worst) return null;
  const [x0, y] = frame.place(left.at);
  const [x1] = frame.place(right.at);
  const [, below] = frame.place(worst.at);
  const out = Math.sign(y - below) || -1;
  const low = Math.min(x0, x1);
  const wide = Math.abs(x1 - x0);
  return (
    <g>
      <path
        d={`M${low} ${y}H${low + wide}L${low + wide - 14} ${below}H${low + 14}Z`}
        fill="url(#beam-down)"
      />
      <rect x={low} y={out < 0 ? y - 34 : y + 4} width={wide} height="30" rx="2" fill={paper.ink} />
      <rect x={low} y={out < 0 ? y - 4 : y} width={wide} height="4" fill={paper.beam} />
      <text
        x={low + wide / 2}
        y={out < 0 ? y - 14 : y + 24}
        fontSize="14"
        textAnchor="middle"
        fill={paper.sheet}
      >
        lamp, {right.text}
      </text>
    </g>
  );
}

function Marks({ sheet, frame }: { sheet: Sheet; frame: Frame }) {
  return (
    <g>
      {sheet.marks.map((mark) => {
        const [x, y] = frame.place(mark.at);
        if (mark.id === "worst")
          return (
            <circle
              key={mark.id}
              cx={x}
              cy={y}
              r="6"
              fill={paper.beam}
              stroke={paper.sheet}
              strokeWidth="1.5"
            />
          );
        if (mark.id.startsWith("tip")) return null;
        return (
          <text key={mark.id} x={x} y={y} fontSize="20" textAnchor="middle" fill="#7d745c">
            {mark.text}
          </text>
        );
      })}
    </g>
  );
}

function ScaleBar({ frame, height }: { frame: Frame; height: number }) {
  const length = 5 * frame.scale;
  const ticks = [0, 1, 2, 3, 4, 5].map(
    (i) => `M${16 + i * frame.scale} ${height - 18}v${i % 5 ? 5 : 9}`,
  );
  return (
    <g stroke={paper.ink} strokeWidth="1.5">
      <path d={`M16 ${height - 14}h${length}${ticks.join("")}`} fill="none" />
      <text x={24 + length} y={height - 9} fontSize="14" stroke="none" fill={paper.ink}>
        5 mm
      </text>
    </g>
  );
}
