import type { Step } from "../api/client";
import picture from "../../../practice/records/picture.json";
import { type Frame, type Shape, bounds, fit, middleOf, pathOf, signs } from "../drawing/geometry";
import { boxOf } from "../drawing/placing";
import { night } from "../theme/tokens";
import type { Run } from "./useRun";

const colours = picture.at_night;
const WIDTH = 380;
const HEIGHT = 260;

/** Tells whether a band or wedge stands: its own of a side, or the one round the tooth. */
function isWorn({ steps }: Run, done: Set<string>, id: string): boolean {
  const side = id.split(".")[1] ?? "";
  const own = steps.filter((s) => s.id === `matrix.${side}.band`).map(() => side);
  return [...own, ...AROUND].some(
    (one) => done.has(`matrix.${one}.band`) && !done.has(`matrix.${one}.off`),
  );
}

const AROUND = ["round", "copper"];

/** The cavity with what is placed so far; the portion at hand is lit. */
export function MiniSection({ run, step }: { run: Run; step: Step }) {
  const { sheets } = run.drawing;
  // While it is finished, where it is seen which way to turn.
  const turning =
    step.stage === "finish" ? sheets.find((one) => one.lines.some(isTurn)) : undefined;
  const sheet = turning ?? sheets[0];
  if (!sheet) return null;
  const tooth = sheet.shapes.filter((s) => s.role === "tooth" && s.material === "enamel");
  const outline = sheet.lines.filter((l) => l.material === "outline");
  const box = bounds(outline);
  const whole = {
    x0: box.x0 - 1.4,
    x1: box.x1 + 1.4,
    y0: sheet.view === "section" ? -1.5 : box.y0,
    y1: box.y1,
  };
  const frame = fit(
    sheet.window ? boxOf(sheet) : whole,
    signs(sheet.view, run.drawing),
    WIDTH,
    HEIGHT,
    8,
  );
  const done = new Set(run.sequence.slice(0, run.state.index));
  const lit = (order: number) =>
    run.steps.some((s) => s.increment === order && (s.light || s.rhythm) && done.has(s.id));
  return (
    <svg
      viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
      style={{ width: "clamp(280px, 30vw, 680px)", maxWidth: "100%" }}
      role="img"
      aria-label="Where the work is"
    >
      {tooth.map((s) => (
        <path
          key={s.id}
          d={pathOf(s.rings, frame)}
          fill={colours.tooth}
          stroke={night.soft}
          strokeWidth="1.6"
        />
      ))}
      {sheet.shapes
        .filter((s) => s.role === "increment" && (lit(s.order) || s.order === step.increment))
        .map((s) => {
          const now = s.order === step.increment;
          const middle = middleOf(s);
          const [x, y] = middle ? frame.place(middle) : [0, 0];
          return (
            <g key={s.id}>
              <path
                d={pathOf(s.rings, frame)}
                fill={now ? night.beam : night.done}
                stroke={night.text}
                strokeWidth={now ? 2 : 1}
              />
              <text
                x={x}
                y={y + 6}
                fontSize="17"
                fontWeight="700"
                textAnchor="middle"
                fill={now ? night.room : night.text}
              >
                {s.order}
              </text>
            </g>
          );
        })}
      {sheet.shapes
        .filter((s) => (s.role === "band" || s.role === "wedge") && isWorn(run, done, s.id))
        .map((s) => {
          const isClear = s.material === "clear";
          return (
            <path
              key={s.id}
              d={pathOf(s.rings, frame)}
              fill={s.role === "wedge" ? colours.wedge : isClear ? colours.clear : colours.band}
              stroke={night.soft}
              strokeWidth="2"
              strokeDasharray={isClear ? "4 3" : undefined}
            />
          );
        })}
      {sheet.lines
        .filter((line) => (turning ? isTurn(line) : isForce(line) && line.order === step.increment))
        .map((line) => (
          <path
            key={line.id}
            d={line.rings.map((ring) => wayOf(ring, frame)).join("")}
            fill="none"
            stroke={night.warn}
            strokeWidth="3"
          />
        ))}
    </svg>
  );
}

function isForce({ material }: Shape): boolean {
  return material === "force";
}

function isTurn({ material }: Shape): boolean {
  return material === "turning";
}

/** An open line as a path. */
function wayOf(points: readonly number[][], frame: Frame): string {
  return `M${points.map(([x = 0, y = 0]) => frame.place([x, y]).join(" ")).join("L")}`;
}
