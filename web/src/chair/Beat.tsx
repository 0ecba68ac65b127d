import Box from "@mui/material/Box";
import { useEffect, useRef, useState } from "react";
import type { Schemas, Step } from "../api/client";
import { night, numerals } from "../theme/tokens";
import { RING } from "./ring";
import { serverTime, workedSeconds } from "./clock";
import type { RunState } from "./fold";
import type { Sound } from "./sound";

const SIZE = 260;
const R = 112;
const LOOK_MS = 40;
const WORDS = "max(14px, 7cqw)";
/** On a phone's ring there is no room for what the step's own words say too. */
const WHERE_ROOM = { "@container (max-width: 180px)": { display: "none" } };

interface Props {
  step: Step;
  rhythm: Schemas["Rhythm"];
  state: RunState;
  sound: Sound;
}

/** How many beats are over: they begin once what is carried is in place. */
export function beatsAt(
  seconds: number,
  step: Pick<Step, "seconds">,
  rhythm: Schemas["Rhythm"],
): number {
  const each = 60 / rhythm.per_minute;
  const begin = Math.max(0, step.seconds - rhythm.count * each);
  return Math.max(0, Math.min(rhythm.count, Math.floor((seconds - begin) / each + 1e-9)));
}

/** Where a step with pieces is: which piece is placed, in which pass, and at which of its strokes; zero until it lies there. */
export function pieceAt(
  seconds: number,
  step: Pick<Step, "seconds">,
  rhythm: Schemas["Rhythm"],
  pieces: Schemas["Pieces"],
): { piece: number; pass: number; stroke: number; beats: number } {
  const own = step.seconds / pieces.count;
  const done = Math.max(0, Math.min(pieces.count - 1, Math.floor(seconds / own + 1e-9)));
  const strokes = pieces.passes * pieces.strokes;
  const beats = beatsAt(seconds - done * own, { seconds: own }, { ...rhythm, count: strokes });
  const at = Math.max(0, beats - 1);
  return {
    piece: pieces.first + done,
    pass: Math.floor(at / pieces.strokes) + 1,
    stroke: beats === 0 ? 0 : (at % pieces.strokes) + 1,
    beats: done * strokes + beats,
  };
}

/** Counts the thrusts of a step in their beat: a pulse and, where sound is on, a click for each. */
export function Beat({ step, rhythm, state, sound }: Props) {
  const [seconds, setSeconds] = useState(0);
  const { pieces } = rhythm;
  const at = pieces ? pieceAt(seconds, step, rhythm, pieces) : undefined;
  const beats = at ? at.beats : beatsAt(seconds, step, rhythm);
  const latest = useRef(state);
  useEffect(() => {
    latest.current = state;
  }, [state]);
  useEffect(() => {
    const timer = setInterval(
      () => setSeconds(workedSeconds(latest.current, serverTime())),
      LOOK_MS,
    );
    return () => clearInterval(timer);
  }, []);
  const heard = useRef(beats);
  const { play } = sound;
  useEffect(() => {
    if (beats > heard.current) play(beats === rhythm.count ? "over" : "beat");
    heard.current = beats;
  }, [beats, play, rhythm.count]);
  const around = 2 * Math.PI * R;
  const isOver = beats === rhythm.count;
  return (
    <Box
      role="timer"
      data-testid="beat"
      data-beats={beats}
      sx={{
        position: "relative",
        width: RING,
        aspectRatio: "1",
        flexShrink: 0,
        containerType: "inline-size",
      }}
    >
      <svg width="100%" height="100%" viewBox={`0 0 ${SIZE} ${SIZE}`} aria-hidden="true">
        <g fill="none" transform={`rotate(-90 ${SIZE / 2} ${SIZE / 2})`}>
          <circle cx={SIZE / 2} cy={SIZE / 2} r={R} stroke="#243138" strokeWidth="20" />
          <circle
            cx={SIZE / 2}
            cy={SIZE / 2}
            r={R}
            stroke={isOver ? night.warn : night.go}
            strokeWidth="20"
            strokeDasharray={`${(around * beats) / rhythm.count} ${around}`}
          />
          {beats > 0 && !isOver && (
            // Made anew with every beat, so that it swells again.
            <circle
              key={beats}
              cx={SIZE / 2}
              cy={SIZE / 2}
              r={R}
              stroke={night.text}
              strokeWidth="3"
            >
              <animate attributeName="r" from={R + 4} to={R + 16} dur="0.3s" fill="freeze" />
              <animate attributeName="opacity" from="0.9" to="0" dur="0.3s" fill="freeze" />
            </circle>
          )}
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
        <Box sx={{ fontSize: "35cqw", fontWeight: 700, lineHeight: 1 }}>{at?.piece ?? beats}</Box>
        <Box sx={{ fontSize: WORDS, color: night.soft, ...(pieces ? WHERE_ROOM : {}) }}>
          {pieces ? `${pieces.name} of about ${pieces.of}` : saidOf(beats, rhythm)}
        </Box>
        {at && pieces && (
          <Box sx={{ fontSize: WORDS, color: night.soft }} data-testid="pass">
            {at.stroke === 0 ? (
              "carry it in"
            ) : (
              <>
                pass {at.pass},{" "}
                <Box component="span" sx={WHERE_ROOM}>
                  {"step "}
                </Box>
                {at.stroke} of {pieces.strokes}
              </>
            )}
          </Box>
        )}
      </Box>
    </Box>
  );
}

function saidOf(beats: number, rhythm: Schemas["Rhythm"]): string {
  return beats === 0 ? "load first" : `of ${rhythm.count} thrusts`;
}
