import Box from "@mui/material/Box";
import type { Step } from "../api/client";
import { night, numerals } from "../theme/tokens";
import { RING } from "./ring";
import { minutesSeconds, useServerTime, workedSeconds } from "./clock";
import type { RunState } from "./fold";
import { type Sound, useTone } from "./sound";

const SIZE = 260;
const R = 112;

interface Props {
  step: Step;
  state: RunState;
  sound: Sound;
}

/** Counts a timed step down, any other up; turns, and sounds, when its time is over. */
export function Timer({ step, state, sound }: Props) {
  const now = Math.max(useServerTime(), Date.parse(state.step_began));
  const elapsed = workedSeconds(state, now);
  const left = step.seconds - elapsed;
  const over = left < 0;
  useTone(sound, "over", Boolean(step.timed) && left <= 0, step.id);
  const share = Math.min(elapsed / Math.max(step.seconds, 1), 1);
  const around = 2 * Math.PI * R;
  const colour = over ? (step.timed ? night.warn : night.soft) : step.light ? night.beam : night.go;
  const shown = step.timed ? Math.abs(Math.ceil(left)) : Math.floor(elapsed);
  return (
    <Box
      role="timer"
      data-testid="timer"
      data-elapsed={elapsed.toFixed(1)}
      sx={{
        position: "relative",
        width: RING,
        aspectRatio: "1",
        flexShrink: 0,
        containerType: "inline-size",
      }}
    >
      <svg width="100%" height="100%" viewBox={`0 0 ${SIZE} ${SIZE}`} aria-hidden="true">
        <g fill="none" strokeWidth="20" transform={`rotate(-90 ${SIZE / 2} ${SIZE / 2})`}>
          <circle cx={SIZE / 2} cy={SIZE / 2} r={R} stroke="#243138" />
          <circle
            cx={SIZE / 2}
            cy={SIZE / 2}
            r={R}
            stroke={colour}
            strokeDasharray={`${around * (step.timed ? 1 - share : share)} ${around}`}
          />
        </g>
      </svg>
      <Box
        sx={{
          position: "absolute",
          inset: 0,
          display: "grid",
          placeContent: "center",
          textAlign: "center",
          ...numerals,
        }}
      >
        <Box
          sx={{
            fontSize: shown >= 600 ? "21cqw" : shown >= 60 ? "26cqw" : "35cqw",
            fontWeight: 700,
            lineHeight: 1,
          }}
        >
          {over && step.timed ? "+" : ""}
          {shown >= 60 ? minutesSeconds(shown) : shown}
        </Box>
        <Box sx={{ fontSize: "max(16px, 7cqw)", color: night.soft }}>
          {over && step.timed
            ? "over"
            : `${step.timed ? "of" : "planned"} ${minutesOr(step.seconds)}`}
        </Box>
      </Box>
    </Box>
  );
}

function minutesOr(seconds: number): string {
  return seconds >= 120 ? `${minutesSeconds(seconds)} min` : `${seconds} s`;
}
