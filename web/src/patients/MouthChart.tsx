import Box from "@mui/material/Box";
import type { KeyboardEvent } from "react";
import { paper } from "../theme/tokens";
import { type Placed } from "./queries";
import {
  type Dentition,
  type Place,
  type Stand,
  type Tooth,
  arches,
  onChart,
  pathOf,
  zoneOf,
} from "./teeth";

/** How each restorative is hatched. */
const HATCHES: Record<string, string> = {
  composite: "hatch-lines",
  "glass ionomer": "hatch-dots",
  amalgam: "hatch-cross",
  "gold foil": "hatch-dense",
  sealant: "hatch-dots",
};
const NUMBER_OFF_MM = 9.5;
const ROOM_MM = 8;

interface Props {
  teeth: Tooth[];
  dentition: Dentition;
  placed: Placed[];
  picked: string | null;
  onPick: (code: string) => void;
}

/** All teeth as somebody in front of the patient sees them, with what was planned and placed; each can be tapped. */
export function MouthChart({ teeth, dentition, placed, picked, onPick }: Props) {
  const stands = arches(teeth, dentition);
  const all = stands.flatMap((stand) =>
    [...stand.tooth.outline, numberPlace(stand)].map((p) => onChart(stand, p)),
  );
  const [xs, ys] = [all.map((p) => p[0]), all.map((p) => p[1])];
  const [x0, y0] = [Math.min(...xs) - ROOM_MM, Math.min(...ys) - ROOM_MM / 2];
  const [wide, high] = [Math.max(...xs) + ROOM_MM - x0, Math.max(...ys) + ROOM_MM / 2 - y0];
  return (
    <Box
      component="svg"
      viewBox={`${x0} ${y0} ${wide} ${high}`}
      className="in-mm"
      role="group"
      aria-label="Mouth chart"
      sx={{ width: "100%", maxHeight: "62dvh", display: "block" }}
    >
      <Hatches />
      <text x={x0 + 1} y={y0 + high / 2} fontSize="3.4" fill={paper.soft}>
        right
      </text>
      <text x={x0 + wide - 1} y={y0 + high / 2} fontSize="3.4" textAnchor="end" fill={paper.soft}>
        left
      </text>
      {stands.map((stand) => (
        <ChartTooth
          key={stand.tooth.code}
          stand={stand}
          placed={placed.filter((one) => one.code === stand.tooth.code)}
          isPicked={stand.tooth.code === picked}
          onPick={() => onPick(stand.tooth.code)}
        />
      ))}
    </Box>
  );
}

/** Where a tooth's number stands in its own frame: outside the arch. */
function numberPlace(stand: Stand): Place {
  const reach = Math.max(...stand.tooth.outline.map((p) => p[1]));
  return [0, reach + NUMBER_OFF_MM - 5];
}

interface ToothProps {
  stand: Stand;
  placed: Placed[];
  isPicked: boolean;
  onPick: () => void;
}

function ChartTooth({ stand, placed, isPicked, onPick }: ToothProps) {
  const { tooth } = stand;
  const place = (p: Place) => onChart(stand, p);
  const outline = pathOf(tooth.outline.map(place));
  const [x, y] = place(numberPlace(stand));
  const told = placed.map((one) => `${one.surfaces} ${one.material}, ${statusOf(one)}`).join("; ");
  const onKey = (event: KeyboardEvent) => {
    if (event.key !== "Enter" && event.key !== " ") return;
    event.preventDefault();
    onPick();
  };
  return (
    <g
      role="button"
      tabIndex={0}
      aria-pressed={isPicked}
      aria-label={`${tooth.shown}, ${tooth.name}${told ? `: ${told}` : ""}`}
      onClick={onPick}
      onKeyDown={onKey}
      style={{ cursor: "pointer" }}
    >
      {/* As large as a fingertip, whatever the tooth. */}
      <circle cx={stand.at[0]} cy={stand.at[1]} r="6.4" fill="transparent" />
      <path
        d={outline}
        fill={paper.enamel}
        stroke={isPicked ? paper.verdigris : paper.ink}
        strokeWidth={isPicked ? 1.1 : 0.45}
      />
      {[...placed]
        .reverse()
        .map((one) =>
          [...one.surfaces].map((letter) => (
            <path
              key={`${one.id}${letter}`}
              d={pathOf(zoneOf(tooth, letter).map(place))}
              fill={
                one.status === "done" ? `url(#${HATCHES[one.material] ?? "hatch-lines"})` : "none"
              }
              stroke={one.status === "done" ? paper.ink : paper.brick}
              strokeWidth={one.status === "done" ? 0.25 : 0.5}
              strokeDasharray={one.status === "done" ? undefined : "1.2 0.9"}
            />
          )),
        )}
      <text
        x={x}
        y={y + 1.4}
        textAnchor="middle"
        fontSize="4"
        fontWeight={isPicked ? 700 : 400}
        fill={isPicked ? paper.verdigris : paper.ink}
      >
        {tooth.shown}
      </text>
    </g>
  );
}

/** How far a restoration is, in words. */
export function statusOf(one: Placed): string {
  if (one.status === "done") return one.is_signed ? "signed" : "placed, record not signed";
  if (one.status === "running") return "at the chair";
  return one.has_plan ? "planned" : "begun";
}

function Hatches() {
  return (
    <defs>
      <pattern
        id="hatch-lines"
        width="1.4"
        height="1.4"
        patternUnits="userSpaceOnUse"
        patternTransform="rotate(45)"
      >
        <rect width="1.4" height="1.4" fill={paper.verdigrisPale} />
        <path d="M0 0V1.4" stroke={paper.verdigris} strokeWidth="0.5" />
      </pattern>
      <pattern id="hatch-cross" width="1.2" height="1.2" patternUnits="userSpaceOnUse">
        <rect width="1.2" height="1.2" fill={paper.sheet} />
        <path d="M0 0L1.2 1.2M1.2 0L0 1.2" stroke={paper.ink} strokeWidth="0.3" />
      </pattern>
      <pattern id="hatch-dots" width="1.1" height="1.1" patternUnits="userSpaceOnUse">
        <rect width="1.1" height="1.1" fill={paper.sheet} />
        <circle cx="0.55" cy="0.55" r="0.25" fill={paper.beam} />
      </pattern>
      <pattern
        id="hatch-dense"
        width="0.7"
        height="0.7"
        patternUnits="userSpaceOnUse"
        patternTransform="rotate(-45)"
      >
        <rect width="0.7" height="0.7" fill={paper.dentin} />
        <path d="M0 0V0.7" stroke={paper.ochre} strokeWidth="0.3" />
      </pattern>
    </defs>
  );
}
