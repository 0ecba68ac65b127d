import Box from "@mui/material/Box";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef } from "react";
import { type Schemas, type Step, client, unwrap } from "../api/client";
import { keys } from "../api/keys";
import { night, numerals } from "../theme/tokens";
import { ChairButton } from "./ChairButton";
import type { Sound } from "./sound";
import type { Run } from "./useRun";

type Mixer = Schemas["MixerOut"];
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

function Due({ due, sound, onMixed }: Omit<Props, "run" | "step"> & { due: Step }) {
  const queries = useQueryClient();
  const mixer = useQuery({
    queryKey: keys.mixer,
    queryFn: () => unwrap(client.GET("/api/mixer")),
    refetchInterval: POLL_MS,
  });
  const answer = (now: Mixer) => queries.setQueryData(keys.mixer, now);
  const start = useMutation({
    mutationFn: () => unwrap(client.POST("/api/mixer", { body: { program_s: due.seconds } })),
    onSuccess: answer,
  });
  const stop = useMutation({
    mutationFn: () => unwrap(client.DELETE("/api/mixer")),
    onSuccess: answer,
  });
  const state = mixer.data;
  const phase = state?.phase ?? "none";
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
      aria-label="Mix due"
      sx={{ my: 2, p: 1.5, border: `2px solid ${night.warn}` }}
    >
      <strong style={{ color: night.warn }}>{due.title}</strong>
      <Box sx={{ fontSize: "0.9em", mb: 1 }}>{due.detail}</Box>
      {phase === "running" && state ? (
        <>
          <Box sx={{ fontSize: 40, fontWeight: 700, ...numerals }}>{Math.ceil(state.left_s)} s</Box>
          <ChairButton small colour={night.stop} onPress={() => stop.mutate()}>
            stop the mixer
          </ChairButton>
        </>
      ) : phase === "none" ? (
        <ChairButton small colour={night.go} onPress={() => onMixed(due.id)}>
          mixed
        </ChairButton>
      ) : (
        <ChairButton small colour={night.go} onPress={() => start.mutate()}>
          start the mixer, {due.seconds} s
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
