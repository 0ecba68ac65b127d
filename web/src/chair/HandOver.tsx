import Box from "@mui/material/Box";
import type { Step } from "../api/client";
import { night } from "../theme/tokens";
import { MixDue, PelletHeat } from "./Devices";
import type { Sound } from "./sound";
import type { Run } from "./useRun";
import { Windows } from "./Windows";

interface Props {
  run: Run;
  step: Step;
  sound: Sound;
  onMixed: (stepId: string) => void;
}

/** The assistant's side: what to hand over next, and what to make ready meanwhile. */
export function HandOver({ run, step, sound, onMixed }: Props) {
  const next = run.steps.find((s) => s.id === nextOf(run));
  const meanwhile = run.steps.filter(
    (s) =>
      s.actor === "assistant" &&
      s.role !== "mix" &&
      (s.start_s ?? 0) < (step.end_s ?? 0) &&
      (s.end_s ?? 0) > (step.start_s ?? 0),
  );
  return (
    <Box
      component="aside"
      sx={{
        borderLeft: { md: `1px solid ${night.line}` },
        borderTop: { xs: `1px solid ${night.line}`, md: 0 },
        p: 3,
        fontSize: "clamp(18px, 1.5vw, 28px)",
      }}
    >
      {step.tray?.length ? (
        <>
          <Heading>On the tray now</Heading>
          <List items={step.tray} />
        </>
      ) : null}
      <Windows step={step} steps={run.steps} state={run.state} sound={sound} />
      <MixDue run={run} step={step} sound={sound} onMixed={onMixed} />
      {step.rhythm?.pieces && <PelletHeat pieces={step.rhythm.pieces} sound={sound} />}
      {meanwhile.map((s) => (
        <Box
          key={s.id}
          sx={{ my: 2, p: 1.5, border: `2px solid ${night.warn}`, color: night.warn }}
        >
          <strong>{s.title}</strong>
          <Box sx={{ fontSize: "0.9em" }}>{s.detail}</Box>
        </Box>
      ))}
      {next && (
        <Box sx={{ mt: 3 }}>
          <Heading>Hand over next</Heading>
          <Box sx={{ fontSize: "1.3em", fontWeight: 700, lineHeight: 1.25, mb: 1 }}>
            {next.title}
          </Box>
          <List items={next.tray ?? []} />
        </Box>
      )}
    </Box>
  );
}

/** The step after the one at hand; after the last of a detour, the one that it interrupted. */
function nextOf({ sequence, state }: Run): string | undefined {
  if (state.detour.length === 0) return sequence[state.index + 1];
  return state.detour[state.detour_at + 1] ?? sequence[state.index];
}

function Heading({ children }: { children: string }) {
  return (
    <Box sx={{ fontSize: "0.9em", fontWeight: 700, color: night.soft, mb: 0.5 }}>{children}</Box>
  );
}

function List({ items }: { items: string[] }) {
  return (
    <Box component="ul" sx={{ listStyle: "none", m: 0, p: 0 }}>
      {items.map((item) => (
        <Box component="li" key={item} sx={{ py: 0.75, borderBottom: `1px solid ${night.line}` }}>
          {item}
        </Box>
      ))}
    </Box>
  );
}
