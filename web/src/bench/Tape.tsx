import Box from "@mui/material/Box";
import {
  type KeyboardEvent,
  type PointerEvent,
  memo,
  useLayoutEffect,
  useRef,
  useState,
} from "react";
import type { Schemas, Step } from "../api/client";
import { useWidth } from "../shell/useWidth";
import { paper } from "../theme/tokens";

const LANES = { dentist: 32, assistant: 78 };
const LEFT = 92;
const TALL = 34;
const CLOSEST = 8;
const DRAG_PX = 4;

interface Props {
  steps: Step[];
  brackets: readonly Schemas["Bracket"][];
  stage: string | null;
  increment: number | null;
  /** The steps that a figure pointed at stands for. */
  lit: readonly string[];
  onPick: (step: Step) => void;
  /** Tells which step is pointed at or has the focus, and null once none is. */
  onPoint: (step: Step | null) => void;
}

/** The steps to scale in time, one lane for each pair of hands. A step that is pointed at says what it is;
 * with the arrow keys one goes from step to step, with plus and minus nearer and farther. */
export const Tape = memo(function Tape({
  steps,
  brackets,
  stage,
  increment,
  lit,
  onPick,
  onPoint,
}: Props) {
  const [ref, outer] = useWidth<HTMLDivElement>();
  const [pointed, setPointed] = useState<Step | null>(null);
  const [zoom, setZoom] = useState(1);
  const roll = useRoll(zoom);
  const room = Math.max(outer - LEFT, 1);
  const width = room * zoom;
  const nearer = (times: number) => setZoom((now) => Math.min(Math.max(now * times, 1), CLOSEST));
  const point = (step: Step | null) => {
    setPointed(step);
    onPoint(step);
  };
  return (
    <Box
      ref={ref}
      onKeyDown={(event) => {
        const times = { "+": 2, "-": 0.5 }[event.key];
        if (times) nearer(times);
      }}
      sx={{
        position: "relative",
        height: 158,
        bgcolor: paper.sheet,
        borderTop: `2px solid ${paper.ink}`,
        overflow: "hidden",
        contain: "content",
      }}
    >
      <Box sx={{ position: "absolute", left: 14, top: 0, fontSize: 14, fontWeight: 700 }}>
        {(["dentist", "assistant"] as const).map((lane) => (
          <Box key={lane} sx={{ position: "absolute", top: LANES[lane] + 7 }}>
            {lane}
          </Box>
        ))}
      </Box>
      <Box className="no-print" sx={{ position: "absolute", left: 8, bottom: 2, display: "flex" }}>
        <Nearer name="Zoom the timeline out" sign="−" can={zoom > 1} onClick={() => nearer(0.5)} />
        <Nearer
          name="Zoom the timeline in"
          sign="+"
          can={zoom < CLOSEST}
          onClick={() => nearer(2)}
        />
      </Box>
      <Box
        {...roll}
        sx={{
          position: "absolute",
          left: LEFT,
          right: 0,
          top: 0,
          bottom: 0,
          overflowX: "auto",
          overflowY: "hidden",
          scrollbarWidth: "thin",
          cursor: zoom > 1 ? "grab" : undefined,
        }}
      >
        <Lanes
          steps={steps}
          brackets={brackets}
          stage={stage}
          increment={increment}
          lit={lit}
          width={width}
          pointed={pointed}
          onPick={onPick}
          onPoint={point}
        />
      </Box>
      {pointed && (
        <Box
          data-testid="pointed-step"
          sx={{
            position: "absolute",
            left: 6,
            right: 6,
            top: 1,
            px: 1,
            fontSize: 15,
            lineHeight: "24px",
            bgcolor: paper.sheet,
            whiteSpace: "nowrap",
            overflow: "hidden",
            textOverflow: "ellipsis",
            pointerEvents: "none",
          }}
        >
          <strong>{pointed.title}</strong> · {pointed.seconds} s · {pointed.detail}
        </Box>
      )}
    </Box>
  );
});

interface LanesProps extends Props {
  width: number;
  pointed: Step | null;
}

/** The steps of a stage, or all of them, in their lanes over the minutes, and what holds over several. */
function Lanes({ steps, brackets, stage, increment, lit, width, pointed, ...rest }: LanesProps) {
  const { onPick, onPoint } = rest;
  const ofStage = steps.filter((s) => s.stage === stage);
  const shown = ofStage.length > 0 ? ofStage : steps;
  const first = Math.min(...shown.map((s) => s.start_s ?? 0));
  const last = Math.max(...shown.map((s) => s.end_s ?? 0));
  const unit = Math.max((width - 16) / Math.max(last - first, 60), 0.2);
  const x = (seconds: number) => (seconds - first) * unit;
  const isOn = (step: Step) =>
    step === pointed ||
    lit.includes(step.id) ||
    (increment !== null && step.increment === increment);
  return (
    <svg
      width={width}
      height="144"
      role="group"
      aria-label="Steps over time"
      style={{ display: "block" }}
      onKeyDown={walk}
      onPointerLeave={() => onPoint(null)}
      onBlur={() => onPoint(null)}
    >
      <path d={`M0 73H${width}M0 119H${width}`} stroke={paper.rule} />
      {shown.flatMap((step) =>
        (["dentist", "assistant"] as const)
          .filter((lane) => step.actor === lane || step.actor === "both")
          .map((lane) => (
            <Block
              key={step.id + lane}
              step={step}
              x={x(step.start_s ?? 0)}
              width={step.seconds * unit}
              y={LANES[lane]}
              isFirst={step === shown[0]}
              isOn={isOn(step)}
              onPick={onPick}
              onPoint={onPoint}
            />
          )),
      )}
      <Minutes first={first} last={last} unit={unit} x={x} />
      <Brackets brackets={brackets} steps={shown} x={x} />
    </svg>
  );
}

interface MinutesProps {
  first: number;
  last: number;
  unit: number;
  x: (s: number) => number;
}

function Minutes({ first, last, unit, x }: MinutesProps) {
  const every = unit * 60 > 56 ? 1 : unit * 60 > 28 ? 2 : 5;
  const minutes = [];
  for (let m = Math.ceil(first / 60); m * 60 <= last; m++) if (m % every === 0) minutes.push(m);
  return (
    <g stroke={paper.ink} fill={paper.soft} fontSize="14">
      {minutes.map((m) => (
        <g key={m}>
          <path d={`M${x(m * 60)} 121v7`} />
          <text x={x(m * 60) + 3} y="140" stroke="none">
            {m} min
          </text>
        </g>
      ))}
    </g>
  );
}

interface NearerProps {
  name: string;
  sign: string;
  can: boolean;
  onClick: () => void;
}

function Nearer({ name, sign, can, onClick }: NearerProps) {
  return (
    <Box
      component="button"
      type="button"
      aria-label={name}
      disabled={!can}
      onClick={onClick}
      sx={{
        width: 40,
        height: 36,
        border: `1.5px solid ${paper.ink}`,
        marginRight: "-1.5px",
        bgcolor: paper.sheet,
        color: paper.ink,
        font: "inherit",
        fontSize: 20,
        lineHeight: 1,
        cursor: "pointer",
        "&:disabled": { color: paper.rule, borderColor: paper.rule, cursor: "default" },
      }}
    >
      {sign}
    </Box>
  );
}

/** Pans what is wider than its frame: a mouse drags it, wheel and fingers scroll it. The middle stays where
 * it is when the zoom changes. */
function useRoll(zoom: number) {
  const frame = useRef<HTMLDivElement>(null);
  const before = useRef(zoom);
  const grab = useRef<{ x: number; left: number; moved: boolean } | null>(null);
  useLayoutEffect(() => {
    const roll = frame.current;
    if (!roll) return;
    const half = roll.clientWidth / 2;
    roll.scrollLeft = ((roll.scrollLeft + half) * zoom) / before.current - half;
    before.current = zoom;
  }, [zoom]);
  return {
    ref: frame,
    onWheel: (event: { deltaX: number; deltaY: number }) => {
      if (frame.current && event.deltaX === 0) frame.current.scrollLeft += event.deltaY;
    },
    onPointerDown: (event: PointerEvent) => {
      if (event.pointerType !== "mouse" || !frame.current) return;
      grab.current = { x: event.clientX, left: frame.current.scrollLeft, moved: false };
    },
    onPointerMove: (event: PointerEvent) => {
      if (!grab.current || !frame.current || event.buttons === 0) return;
      const by = event.clientX - grab.current.x;
      if (Math.abs(by) > DRAG_PX) grab.current.moved = true;
      if (grab.current.moved) frame.current.scrollLeft = grab.current.left - by;
    },
    // A drag that ends over a step does not pick it.
    onClickCapture: (event: { stopPropagation: () => void }) => {
      if (grab.current?.moved) event.stopPropagation();
      grab.current = null;
    },
  };
}

interface BlockProps {
  step: Step;
  x: number;
  y: number;
  width: number;
  isFirst: boolean;
  isOn: boolean;
  onPick: (step: Step) => void;
  onPoint: (step: Step) => void;
}

/** Moves the focus to the step before or after, in the order of their beginnings. */
function walk(event: KeyboardEvent<SVGSVGElement>) {
  const by = { ArrowRight: 1, ArrowLeft: -1 }[event.key];
  if (!by) return;
  const blocks = [...event.currentTarget.querySelectorAll<SVGElement>("[data-step]")];
  const here = blocks.findIndex((block) => block === document.activeElement);
  event.preventDefault();
  blocks[Math.min(Math.max(here + by, 0), blocks.length - 1)]?.focus();
}

function Block({ step, x, y, width, isFirst, isOn, onPick, onPoint }: BlockProps) {
  const fits = width > step.title.length * 7.2 + 8;
  const short = step.light ? `${step.seconds}` : (step.increment ?? "");
  return (
    <g
      role="button"
      tabIndex={isFirst ? 0 : -1}
      aria-label={`${step.title}, ${step.increment ? `increment ${step.increment}, ` : ""}${step.seconds} s`}
      onClick={() => onPick(step)}
      onKeyDown={(event) => {
        if (event.key === "Enter") onPick(step);
      }}
      onFocus={() => onPoint(step)}
      onPointerEnter={() => onPoint(step)}
      style={{ cursor: "pointer" }}
      data-step={step.id}
    >
      <rect
        x={x}
        y={y}
        width={Math.max(width - 1.5, 1.5)}
        height={TALL}
        fill={step.light ? paper.beamPale : paper.desk}
        stroke={step.light ? paper.beam : paper.ink}
        strokeWidth={isOn ? 3 : 1.2}
      />
      {(fits || width > 24) && (
        <text x={x + 4} y={y + 22} fontSize="14" fill={paper.ink}>
          {fits ? step.title : short}
        </text>
      )}
    </g>
  );
}

const BRACKET_COLOURS = {
  dry: paper.brick,
  working: paper.verdigris,
  setting: paper.ink,
  carving: paper.ochre,
};

interface BracketsProps {
  brackets: readonly Schemas["Bracket"][];
  steps: Step[];
  x: (s: number) => number;
}

/** A letter of a bracket's words, in pixels. */
const LETTER_PX = 7;

/** What holds from the end of one step to the end of another: what is told first over the lanes with its words, as many as
 * there is room for up to the next, the later ones lower. */
function Brackets({ brackets, steps, x }: BracketsProps) {
  const above = brackets.some((one) => one.kind === "dry") ? "dry" : "working";
  const at = (id: string) => x(steps.find((s) => s.id === id)?.end_s ?? NaN);
  const placed = brackets
    .map((bracket) => ({ bracket, x0: at(bracket.from), x1: at(bracket.to) }))
    .filter(({ x0, x1 }) => Number.isFinite(x0 + x1));
  const upper = placed.filter(({ bracket }) => bracket.kind === above);
  return placed.map(({ bracket, x0, x1 }) => {
    const { kind, from, to, text } = bracket;
    const colour = BRACKET_COLOURS[kind];
    if (kind !== above)
      // Over the minutes there is room for its line alone.
      return (
        <path
          key={from + to}
          d={`M${x0} 114v6H${x1}v-6`}
          fill="none"
          stroke={colour}
          strokeWidth="2.5"
        >
          <title>{text}</title>
        </path>
      );
    const next = Math.min(...upper.map((one) => one.x0).filter((other) => other > x0));
    const words = [text, text.split(":")[0] ?? ""].find((w) => w.length * LETTER_PX < next - x0);
    return (
      <g key={from + to}>
        <path d={`M${x0} 29v-7H${x1}v7`} fill="none" stroke={colour} strokeWidth="1.6">
          {words !== text && <title>{text}</title>}
        </path>
        <text x={x0} y="16" fontSize="14" fill={colour}>
          {words}
        </text>
      </g>
    );
  });
}
