import Box from "@mui/material/Box";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef } from "react";
import { type Schemas, type Step, client, unwrap } from "../api/client";
import { keys } from "../api/keys";
import { night, numerals } from "../theme/tokens";
import { ChairButton } from "./ChairButton";
import type { Sound } from "./sound";
import type { Run } from "./useRun";

type Device = Schemas["DeviceOut"];
type Kind = "mixer" | "annealer" | "burner";
const POLL_MS = 500;

interface Props {
  run: Run;
  step: Step;
  sound: Sound;
  onMixed: (stepId: string) => void;
}

/** The mix that is due: its program on the mixer that is connected, or a button for one that stands alone. Its clock runs
 *  from when it is ready. */
export function MixDue({ run, step, sound, onMixed }: Props) {
  const due = mixDue(run, step);
  return due ? <Due key={due.id} due={due} sound={sound} onMixed={onMixed} /> : null;
}

/** A device of a kind: what it does now, and how it is started and stopped. */
function useDevice(kind: Kind, program_s: number) {
  const queries = useQueryClient();
  const params = { path: { kind } };
  const found = useQuery({
    queryKey: keys.device(kind),
    queryFn: () => unwrap(client.GET("/api/devices/{kind}", { params })),
    refetchInterval: POLL_MS,
  });
  const answer = (now: Device) => queries.setQueryData(keys.device(kind), now);
  const start = useMutation({
    mutationFn: () => unwrap(client.POST("/api/devices/{kind}", { params, body: { program_s } })),
    onSuccess: answer,
  });
  const stop = useMutation({
    mutationFn: () => unwrap(client.DELETE("/api/devices/{kind}", { params })),
    onSuccess: answer,
  });
  return { state: found.data, phase: found.data?.phase ?? "none", start, stop };
}

function Due({ due, sound, onMixed }: Omit<Props, "run" | "step"> & { due: Step }) {
  const kind = due.device ?? "mixer";
  const { state, phase, start, stop } = useDevice(kind, due.seconds);
  const ran = useRef(false);
  useEffect(() => {
    // A program that ended before this mix was due is none of its own.
    if (phase === "running") ran.current = true;
    if (phase === "done" && ran.current) {
      ran.current = false;
      sound.play("over");
      onMixed(due.id);
    }
  }, [phase, due.id, onMixed, sound]);
  return (
    <Box
      role="group"
      aria-label={kind === "mixer" ? "Mix due" : "Heat due"}
      sx={{ my: 2, p: 1.5, border: `2px solid ${night.warn}` }}
    >
      <strong style={{ color: night.warn }}>{due.title}</strong>
      <Box sx={{ fontSize: "0.9em", mb: 1 }}>{due.detail}</Box>
      {phase === "running" && state ? (
        <>
          <Box sx={{ fontSize: 40, fontWeight: 700, ...numerals }}>{Math.ceil(state.left_s)} s</Box>
          <ChairButton small colour={night.stop} onPress={() => stop.mutate()}>
            stop the {kind}
          </ChairButton>
        </>
      ) : phase === "none" ? (
        <ChairButton small colour={night.go} onPress={() => onMixed(due.id)}>
          {kind === "mixer" ? "mixed" : "heated"}
        </ChairButton>
      ) : (
        <ChairButton small colour={night.go} onPress={() => start.mutate()}>
          start the {kind}, {due.seconds} s
        </ChairButton>
      )}
      {state?.error && phase === "error" && (
        <Box role="alert" sx={{ mt: 1, color: night.warn }}>
          {state.error}
        </Box>
      )}
      {start.isError && (
        <Box role="alert" sx={{ mt: 1, color: night.warn }}>
          {start.error.message}
        </Box>
      )}
    </Box>
  );
}

/** The newest mix that should be on its way while a step is done, unless it is ready already. */
export function mixDue(run: Pick<Run, "steps" | "state">, step: Step): Step | undefined {
  const ready = run.state.mixes.filter((mix) => !mix.is_discarded).map((mix) => mix.step_id);
  const due = run.steps.filter(
    (s) => s.role === "mix" && s.actor === "assistant" && (s.start_s ?? 0) < (step.end_s ?? 0),
  );
  const newest = due.at(-1);
  return newest && !ready.includes(newest.id) ? newest : undefined;
}

interface PelletProps {
  pieces: Schemas["Pieces"];
  sound: Sound;
}

/** A pellet in the flame: how long it still is in it, then how long it is clean; later it is heated again. */
export function PelletHeat({ pieces, sound }: PelletProps) {
  const { name, heat_s, clean_s } = pieces;
  return heat_s && clean_s ? (
    <Flame name={name} heat_s={heat_s} clean_s={clean_s} sound={sound} />
  ) : null;
}

interface FlameProps {
  name: string;
  heat_s: number;
  clean_s: number;
  sound: Sound;
}

function Flame({ name, heat_s, clean_s, sound }: FlameProps) {
  const { state, phase, start } = useDevice("burner", heat_s);
  const left = phase === "done" && state ? Math.ceil(clean_s - state.done_s) : 0;
  const ran = useRef(false);
  useEffect(() => {
    if (phase === "running") ran.current = true;
    if (phase === "done" && ran.current) {
      ran.current = false;
      sound.play("over");
    }
  }, [phase, sound]);
  return (
    <Box
      role="group"
      aria-label={`Heat of a ${name}`}
      sx={{ my: 2, p: 1.5, border: `2px solid ${left > 0 ? night.go : night.warn}` }}
    >
      {phase === "running" && state ? (
        <Box sx={{ fontSize: 32, fontWeight: 700, ...numerals }}>
          in the flame, {Math.ceil(state.left_s)} s
        </Box>
      ) : left > 0 ? (
        <Box sx={{ fontSize: 32, fontWeight: 700, ...numerals }}>clean for {left} s more</Box>
      ) : (
        <Box sx={{ mb: 1 }}>
          {phase === "done" ? `Too old: heat the ${name} again` : "Dull red"}
        </Box>
      )}
      {phase !== "none" && phase !== "running" && (
        <ChairButton small colour={night.go} onPress={() => start.mutate()}>
          heat a {name}, {heat_s} s
        </ChairButton>
      )}
      {state?.error && phase === "error" && (
        <Box role="alert" sx={{ mt: 1, color: night.warn }}>
          {state.error}
        </Box>
      )}
    </Box>
  );
}
