import Box from "@mui/material/Box";
import { type KeyboardEvent, memo, useState } from "react";
import type { Step } from "../api/client";
import { useWidth } from "../shell/useWidth";
import { paper } from "../theme/tokens";

const LANES = { dentist: 34, assistant: 84 };
const LEFT = 92;
const TALL = 36;

interface Props {
  steps: Step[];
  stage: string | null;
  increment: number | null;
  onPick: (step: Step) => void;
  /** Tells which step is pointed at or has the focus, and null once none is. */
  onPoint: (step: Step | null) => void;
}

/** The steps to scale in time, one lane for each pair of hands. A step that is pointed at says what it is;
 * with the arrow keys one goes from step to step. */
export const Tape = memo(function Tape({ steps, stage, increment, onPick, onPoint }: Props) {
  const [ref, width] = useWidth<HTMLDivElement>();
  const [pointed, setPointed] = useState<Step | null>(null);
  const point = (step: Step | null) => {
    setPointed(step);
    onPoint(step);
  };
  const shown = steps.filter((s) => (stage ? s.stage === stage : true));
  const first = Math.min(...shown.map((s) => s.start_s ?? 0));
  const last = Math.max(...shown.map((s) => s.end_s ?? 0));
  const unit = Math.max((width - LEFT - 16) / Math.max(last - first, 60), 0.2);
  const x = (seconds: number) => LEFT + (seconds - first) * unit;
  const every = unit * 60 > 56 ? 1 : unit * 60 > 28 ? 2 : 5;
  const minutes = [];
  for (let m = Math.ceil(first / 60); m * 60 <= last; m++) if (m % every === 0) minutes.push(m);
  return (
    <Box
      ref={ref}
      sx={{
        bgcolor: paper.sheet,
        borderTop: `2px solid ${paper.ink}`,
        overflow: "hidden",
        contain: "content",
      }}
    >
      <svg
        width={width}
        height="158"
        role="group"
        aria-label="Steps over time"
        style={{ display: "block" }}
        onKeyDown={walk}
        onPointerLeave={() => point(null)}
        onBlur={() => point(null)}
      >
        <g fontSize="14" fontWeight="700" fill={paper.ink}>
          <text x="14" y={LANES.dentist + 23}>
            dentist
          </text>
          <text x="14" y={LANES.assistant + 23}>
            assistant
          </text>
        </g>
        <path
          d={`M${LEFT - 4} 14V128M${LEFT - 4} 77H${width}M${LEFT - 4} 127H${width}`}
          stroke={paper.rule}
        />
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
                isOn={step === pointed || (increment !== null && step.increment === increment)}
                onPick={onPick}
                onPoint={point}
              />
            )),
        )}
        <g stroke={paper.ink} fill={paper.soft} fontSize="14">
          {minutes.map((m) => (
            <g key={m}>
              <path d={`M${x(m * 60)} 130v7`} />
              <text x={x(m * 60) + 3} y="152" stroke="none">
                {m} min
              </text>
            </g>
          ))}
        </g>
        <DryBracket steps={shown} x={x} />
        {pointed && (
          <g>
            <rect x="6" y="1" width={width - 12} height="24" fill={paper.sheet} />
            <text x="14" y="18" fontSize="15" fill={paper.ink} data-testid="pointed-step">
              <tspan fontWeight="700">{pointed.title}</tspan> · {pointed.seconds} s ·{" "}
              {pointed.detail}
            </text>
          </g>
        )}
      </svg>
    </Box>
  );
});

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
        <text x={x + 4} y={y + 23} fontSize="14" fill={paper.ink}>
          {fits ? step.title : short}
        </text>
      )}
    </g>
  );
}

/** From the end of drying to the adhesive's cure nothing may get wet. */
function DryBracket({ steps, x }: { steps: Step[]; x: (s: number) => number }) {
  const from = steps.find((s) => s.id === "bond.dry");
  const to = steps.find((s) => s.id.startsWith("bond.cure"));
  if (!from || !to) return null;
  const x0 = x(from.end_s ?? 0);
  const x1 = x(to.end_s ?? 0);
  return (
    <g>
      <path d={`M${x0} 30v-7H${x1}v7`} fill="none" stroke={paper.brick} strokeWidth="1.6" />
      <text x={x0} y="17" fontSize="14" fill={paper.brick}>
        keep dry: wet here starts again at the etch
      </text>
    </g>
  );
}
