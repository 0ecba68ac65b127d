import Box from "@mui/material/Box";
import type { Schemas, Step } from "../api/client";
import { night, numerals } from "../theme/tokens";
import { useServerTime, workedSeconds } from "./clock";
import type { RunState } from "./fold";
import { type Sound, useTone } from "./sound";

const CLOSING_S = 15;

interface Props {
  step: Step;
  steps: Step[];
  state: RunState;
  sound: Sound;
}

/** What must be used while it is fresh, and for how long it still is. */
export function Windows({ step, ...rest }: Props) {
  return (step.within ?? []).map((window) => (
    <Window key={window.step} window={window} step={step} {...rest} />
  ));
}

function Window({ window, step, steps, state, sound }: Props & { window: Schemas["Within"] }) {
  const now = useServerTime();
  const worked = workedSeconds(state, now);
  const ready = steps.find((s) => s.id === window.step);
  // What was made ready ahead of this step has lain open since; of a mix it is known when it was ready.
  const ahead = Math.max(0, (step.start_s ?? 0) - (ready?.end_s ?? step.start_s ?? 0));
  const mixed = state.mixes
    .filter((mix) => mix.step_id === window.step && !mix.is_discarded)
    .at(-1);
  const old = mixed ? (now - Date.parse(mixed.at)) / 1000 : ahead + worked;
  const left = Math.ceil(window.seconds - old);
  const isOver = left < 0;
  const isClosing = left < CLOSING_S;
  const colour = isOver ? night.stop : isClosing ? night.warn : night.go;
  useTone(sound, "closing", isClosing, step.id);
  return (
    <Box data-window={window.step} sx={{ my: 2 }}>
      <Box sx={{ display: "flex", justifyContent: "space-between", gap: 2, ...numerals }}>
        <span>
          {isOver
            ? window.late || "Exposed too long: discard, dispense fresh"
            : window.text || "Open to the light for"}
        </span>
        <strong style={{ whiteSpace: "nowrap", color: colour }}>
          {isOver ? `${-left} s over` : `${left} s more`}
        </strong>
      </Box>
      <Box sx={{ height: 8, border: `1px solid ${night.line}` }}>
        <Box
          sx={{ height: "100%", bgcolor: colour }}
          style={{ width: `${(100 * Math.max(left, 0)) / window.seconds}%` }}
        />
      </Box>
      {window.rule && (
        <Box sx={{ fontSize: 16, color: night.soft }}>
          why: {window.rule.title}, {window.rule.value}
          {"\u00a0"}
          {window.rule.unit}. {window.rule.citation}
        </Box>
      )}
    </Box>
  );
}
