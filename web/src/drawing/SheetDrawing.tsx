import { type ReactNode, type SVGProps, memo, useId } from "react";
import { paper } from "../theme/tokens";
import {
  type Box,
  type Frame,
  type Orientation,
  type Shape,
  type Sheet,
  type Xy,
  bounds,
  frameOf,
  middleOf,
  pathOf,
  scaleFor,
  signs,
} from "./geometry";
import { Hatches, hatchOf } from "./Hatches";

const FOOT = 48;
export const MARGIN = 22;
const NUMBERS_FROM_SCALE = 14;
const BANDS_FROM_SCALE = 80;

/** Which sheet is drawn, how large, and of what. */
export interface Placed {
  sheet: Sheet;
  orientation: Orientation;
  width: number;
  height: number;
  /** The millimetres to show, where several drawings share a scale. */
  box?: Box | undefined;
  /** Pixels a millimetre; left out, what fits. */
  scale?: number | undefined;
}

/** Returns where the millimetres of a placed sheet fall. */
export function frameFor({ sheet, orientation, width, height, box, scale }: Placed): Frame {
  const shown = box ?? boxOf(sheet);
  // Only the section has root to spare below; elsewhere room is kept for what floats over the foot.
  const free = height - (sheet.view === "section" ? 0 : FOOT);
  const way = signs(sheet.view, orientation);
  return frameOf(shown, way, width, free, scale ?? scaleFor(shown, width, free, MARGIN));
}

interface Props extends Placed {
  /** Shows band, wedge and margin much larger in a corner. */
  hasInset?: boolean;
  hasScaleBar?: boolean;
  selected: number | null;
  onSelect?: (order: number) => void;
}

/** One view of a plan, to scale, in ink: the server's polygons and nothing that is not in them. */
export const SheetDrawing = memo(function SheetDrawing({
  hasInset = false,
  hasScaleBar = true,
  selected,
  onSelect,
  ...placed
}: Props) {
  const { sheet, width, height } = placed;
  const way = signs(sheet.view, placed.orientation);
  const frame = frameFor(placed);
  const increments = sheet.shapes.filter((s) => s.role === "increment");
  // From above the portions lie on each other: only the selected one bears its number there.
  const fewer = sheet.view === "above" || frame.scale < NUMBERS_FROM_SCALE;
  const numbered = fewer ? increments.filter((s) => s.order === selected) : increments;
  return (
    <svg
      width={width}
      height={height}
      viewBox={`0 0 ${width} ${height}`}
      role="group"
      aria-label={`Drawing: ${sheet.title}`}
      style={{ display: "block", contain: "strict" }}
    >
      <Hatches />
      <Grid frame={frame} width={width} height={height} />
      {sheet.view === "section" && <Lamp sheet={sheet} frame={frame} />}
      <Shapes sheet={sheet} frame={frame} selected={selected} onSelect={onSelect} />
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
      {hasInset && <Inset sheet={sheet} frame={frame} way={way} width={width} height={height} />}
      {hasScaleBar && <ScaleBar frame={frame} height={height} />}
    </svg>
  );
});

interface ShapesProps {
  sheet: Sheet;
  frame: Frame;
  selected: number | null;
  onSelect: ((order: number) => void) | undefined;
}

/** The filled outlines, from back to front. */
function Shapes({ sheet, frame, selected, onSelect }: ShapesProps) {
  const count = sheet.shapes.filter((s) => s.role === "increment").length;
  return sheet.shapes.map((shape) =>
    shape.role === "increment" ? (
      <Increment
        key={shape.id}
        shape={shape}
        frame={frame}
        count={count}
        dimmed={selected !== null && selected !== shape.order}
        onSelect={onSelect}
      />
    ) : (
      <Part key={shape.id} shape={shape} frame={frame} />
    ),
  );
}

const INSET = { width: 136, height: 96, edge: 10, foot: 40, head: 52, times: 8 };

/** Returns the gingival margin of the first box: the outer end of its floor. */
function marginOf(sheet: Sheet): Xy | null {
  const depth = sheet.dimensions.find((d) => d.case_path.endsWith(".axial_depth_mm"));
  const box = depth?.case_path.replace("axial_depth_mm", "height_mm");
  const height = sheet.dimensions.find((d) => d.case_path === box);
  const x = depth?.p0[0];
  const y = height?.p1[1];
  return x === undefined || y === undefined ? null : [x, y];
}

interface InsetProps {
  sheet: Sheet;
  frame: Frame;
  way: Xy;
  width: number;
  height: number;
}

/** The gingival margin at eight times the scale: what the band's thickness and the wedge do there. It
 * stands in the corner beside the lamp, over the neighbour. */
function Inset({ sheet, frame, way, width, height }: InsetProps) {
  const clip = useId();
  const margin = marginOf(sheet);
  if (!margin) return null;
  const [x, y] = margin;
  const around = { x0: x, x1: x, y0: y, y1: y };
  const near = frameOf(around, way, INSET.width, INSET.height, frame.scale * INSET.times);
  const [mx, my] = frame.place(margin);
  const isLeft = mx < width / 2;
  const isTop = way[1] < 0;
  const left = isLeft ? INSET.edge : width - INSET.width - INSET.edge;
  const top = !isTop ? height - INSET.foot - INSET.height : isLeft ? INSET.edge : INSET.head;
  const half = INSET.width / (2 * INSET.times);
  const tall = INSET.height / (2 * INSET.times);
  return (
    <g data-testid="inset">
      <path
        d={`M${mx} ${my + (isTop ? -tall : tall)}L${left + INSET.width / 2} ${isTop ? top + INSET.height : top}`}
        stroke={paper.faint}
      />
      <rect
        x={mx - half}
        y={my - tall}
        width={2 * half}
        height={2 * tall}
        fill="none"
        stroke={paper.ink}
      />
      <clipPath id={clip}>
        <rect width={INSET.width} height={INSET.height} />
      </clipPath>
      <g transform={`translate(${left} ${top})`}>
        <rect width={INSET.width} height={INSET.height} fill={paper.desk} />
        <g clipPath={`url(#${clip})`}>
          <Shapes sheet={sheet} frame={near} selected={null} onSelect={undefined} />
        </g>
        <rect width={INSET.width} height={INSET.height} fill="none" stroke={paper.ink} />
        <rect x="1" y="1" width="44" height="22" fill={paper.sheet} />
        <text x="8" y="17" fontSize="14" fill={paper.ink}>
          {INSET.times} ×
        </text>
      </g>
    </g>
  );
}

/** Returns the millimetres worth showing: the tooth, half of each neighbour, and the lamp's tip. */
export function boxOf(sheet: Sheet): Box {
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
    // Thinner than a pixel on the tooth, a band is drawn with a line of its own there.
    const line = frame.scale > BANDS_FROM_SCALE ? 0.5 : 2.4;
    return (
      <path
        d={d}
        fill={clear ? paper.sheet : paper.ink}
        stroke={paper.ink}
        strokeWidth={clear ? 1 : line}
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
  onSelect: ((order: number) => void) | undefined;
}

function Increment({ shape, frame, count, dimmed, onSelect }: IncrementProps) {
  const d = pathOf(shape.rings, frame);
  return (
    <g
      opacity={dimmed ? 0.4 : 1}
      onClick={() => onSelect?.(shape.order)}
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
  onSelect: ((order: number) => void) | undefined;
  isOn: boolean;
}) {
  const middle = middleOf(shape);
  if (!middle) return null;
  const [x, y] = frame.place(middle);
  const r = Math.min(11, Math.max(7.5, 0.42 * frame.scale));
  return (
    <g onClick={() => onSelect?.(shape.order)} style={{ cursor: "pointer" }}>
      <circle
        cx={x}
        cy={y}
        r={r}
        fill={isOn ? paper.ink : paper.sheet}
        stroke={paper.ink}
        strokeWidth="1.4"
      />
      <text
        x={x}
        y={y + 0.45 * r}
        fontSize={Math.max(11, 1.28 * r)}
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
