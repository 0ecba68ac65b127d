import { type KeyboardEvent, type PointerEvent, memo, startTransition, useState } from "react";
import { paper } from "../theme/tokens";
import { dragged, movedEnd, stepped } from "./dragging";
import type { Dimension, Frame, Sheet } from "./geometry";
import { GRIP, type Room, STATES, TAG_HIGH, isUpright, tagWide, tagsOf, textOf } from "./tags";

interface Props {
  dimensions: Dimension[];
  /** What they are drawn over. */
  sheet: Sheet;
  frame: Frame;
  room: Room;
  /** The value as typed so far, which may be ahead of the drawing. */
  valueOf: (path: string) => number | null;
  onPick: (path: string) => void;
  onBegin: () => void;
  /** A value passed over while a grip is held. */
  onDrag: (path: string, value: number) => void;
  /** A value that is meant: the grip was let go, or a key pressed. */
  onChange: (path: string, value: number) => void;
}

/** Lengths with their end marks and a label; the far end can be dragged, the label leads to a field. */
export function Dimensions({ dimensions, sheet, room, ...rest }: Props) {
  const tags = tagsOf(dimensions, sheet, rest.frame, room);
  return (
    <g>
      {dimensions.map((d, i) => {
        const [x, y] = tags[i]?.at ?? [0, 0];
        return <Length key={d.case_path} dimension={d} x={x} y={y} {...rest} />;
      })}
    </g>
  );
}

interface Grab {
  from: [number, number];
  value: number;
  now: number;
  hasMoved: boolean;
}

interface LengthProps extends Omit<Props, "dimensions" | "sheet" | "room"> {
  dimension: Dimension;
  /** Where its label stands. */
  x: number;
  y: number;
}

const Length = memo(function Length({
  dimension: d,
  x,
  y,
  frame,
  valueOf,
  onPick,
  onBegin,
  onDrag,
  onChange,
}: LengthProps) {
  const [grab, setGrab] = useState<Grab | null>(null);
  const value = valueOf(d.case_path) ?? d.value;
  const [x0, y0] = frame.place(d.p0);
  const [x1, y1] = frame.place(d.p1);
  const look = STATES[d.state];
  const text = grab ? grab.now.toFixed(1) : textOf(d);
  const wide = tagWide(text);
  const upright = isUpright(d, frame);

  function move(event: PointerEvent) {
    if (!grab) return;
    const by: [number, number] = [event.clientX - grab.from[0], event.clientY - grab.from[1]];
    const now = dragged({ ...d, value: grab.value }, by, frame);
    if (now === grab.now) return;
    setGrab({ ...grab, now, hasMoved: true });
    onDrag(d.case_path, now);
  }

  function letGo() {
    if (grab?.hasMoved) onChange(d.case_path, grab.now);
    setGrab(null);
  }

  function key(event: KeyboardEvent) {
    const now = stepped({ ...d, value }, event.key, event.shiftKey);
    if (event.key === "Enter") onPick(d.case_path);
    if (now === null) return;
    event.preventDefault();
    onBegin();
    onChange(d.case_path, now);
  }

  const [gx, gy] = grab ? movedEnd(d, grab.now, frame) : [x1, y1];
  return (
    <g stroke={paper.verdigris}>
      <path d={`M${x0} ${y0}L${x1} ${y1}`} strokeWidth="1.4" strokeDasharray={look.dash} />
      {grab && (
        <path d={`M${x0} ${y0}L${gx} ${gy}`} strokeWidth="3" opacity="0.5" data-testid="ghost" />
      )}
      <circle cx={x0} cy={y0} r="4.5" fill={paper.sheet} strokeWidth="2" />
      <circle cx={gx} cy={gy} r="6" fill={paper.verdigris} strokeWidth="2" />
      <circle
        cx={gx}
        cy={gy}
        r={GRIP}
        fill="transparent"
        stroke="none"
        role="slider"
        tabIndex={0}
        aria-label={`${d.title}, mm`}
        aria-valuenow={grab?.now ?? value}
        aria-valuemin={d.min}
        aria-valuemax={d.max}
        aria-valuetext={`${text} mm, ${d.state}`}
        data-grip={d.case_path}
        style={{
          cursor: upright ? "ns-resize" : "ew-resize",
          touchAction: "none",
          pointerEvents: "all",
        }}
        onPointerDown={(event) => {
          // Or the browser looks at every move for text to select, and lays out the page for it.
          event.preventDefault();
          event.currentTarget.focus({ preventScroll: true });
          event.currentTarget.setPointerCapture(event.pointerId);
          startTransition(onBegin);
          setGrab({ from: [event.clientX, event.clientY], value, now: value, hasMoved: false });
        }}
        onPointerMove={move}
        onPointerUp={letGo}
        onPointerCancel={letGo}
        onKeyDown={key}
      />
      <g
        role="button"
        transform={`translate(${x} ${y})`}
        aria-label={`${d.title}: ${text} mm, ${d.state}. Change it`}
        onClick={() => onPick(d.case_path)}
        style={{ cursor: "pointer", pointerEvents: "all" }}
      >
        <rect
          x={-wide / 2}
          y={-TAG_HIGH / 2}
          width={wide}
          height={TAG_HIGH}
          fill={paper.sheet}
          strokeWidth="1.5"
          strokeDasharray={look.dash}
        />
        <text
          y="5"
          fontSize="15"
          fontWeight="700"
          fontStyle={look.style}
          textAnchor="middle"
          stroke="none"
          fill={paper.ink}
        >
          {text}
        </text>
      </g>
    </g>
  );
});
