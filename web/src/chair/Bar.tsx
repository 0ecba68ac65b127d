import Box from "@mui/material/Box";
import { type ReactNode, useState } from "react";
import type { Step } from "../api/client";
import { night } from "../theme/tokens";
import { ChairButton } from "./ChairButton";
import { Deeper } from "./Deeper";
import { TeacherPasses } from "./Hold";
import { OtherMatrix } from "./OtherMatrix";
import { PauseButton } from "./Pause";
import { Scan } from "./Scan";
import { type Run, type RunControls, waitsForTeacher } from "./useRun";

interface Props {
  run: Run;
  step: Step;
  isLast: boolean;
  controls: RunControls;
}

/** All that can be done at a step, side by side. */
export function Bar(props: Props) {
  return (
    <Box
      sx={{
        gridColumn: "1 / -1",
        display: "flex",
        flexWrap: "wrap",
        gap: { xs: 1, md: 2 },
        px: { xs: 2, md: 4 },
        py: { xs: 1, md: 2 },
        minHeight: 104,
        position: { xs: "sticky", md: "static" },
        bottom: 0,
        bgcolor: night.room,
        borderTop: `1px solid ${night.line}`,
      }}
    >
      <Onward {...props} />
      <Back {...props} />
      <Box sx={{ ml: { md: "auto" }, display: "flex", flexWrap: "wrap", gap: { xs: 1, md: 2 } }}>
        <Otherwise {...props} />
      </Box>
    </Box>
  );
}

interface PhoneProps extends Props {
  clock: ReactNode;
  switches: ReactNode;
}

/** On a phone the time and the way onward are always in sight, all else is one tap away. */
export function PhoneBar({ clock, switches, ...props }: PhoneProps) {
  // Of another step it is shut again.
  const [openAt, setOpenAt] = useState<string | null>(null);
  const isOpen = openAt === props.step.id;
  return (
    <Box
      sx={{
        gridColumn: "1 / -1",
        position: "sticky",
        bottom: 0,
        zIndex: 1,
        px: 2,
        py: 1,
        bgcolor: night.room,
        borderTop: `1px solid ${night.line}`,
      }}
    >
      {isOpen && (
        <Box id="otherwise" sx={{ display: "flex", flexWrap: "wrap", gap: 1, pb: 1 }}>
          <Otherwise {...props} />
          {switches}
        </Box>
      )}
      <Box sx={{ display: "flex", gap: 1.5, alignItems: "center" }}>
        {clock}
        <Box sx={{ flex: 1, minWidth: 0, display: "grid", gap: 1, gridTemplateColumns: "1fr 1fr" }}>
          <Box
            sx={{
              gridColumn: "1 / -1",
              display: "grid",
              gap: 1,
              gridAutoFlow: "column",
              gridAutoColumns: "1fr",
            }}
          >
            <Onward {...props} />
          </Box>
          <Back {...props} />
          <ChairButton
            small
            isOpen={isOpen}
            controls="otherwise"
            onPress={() => setOpenAt(isOpen ? null : props.step.id)}
          >
            {isOpen ? "less" : "more"}
          </ChairButton>
        </Box>
      </Box>
    </Box>
  );
}

/** What ends a step: its check passed or failed, or that it is done. */
function Onward({ run, step, isLast, controls }: Props) {
  const press = controls.happen;
  if (!step.check)
    return (
      <ChairButton main keyName="Space" onPress={() => press(isLast ? "finished" : "step_done")}>
        {isLast ? "finish" : "next"}
      </ChairButton>
    );
  return (
    <>
      {waitsForTeacher(run) ? (
        <TeacherPasses run={run} disabled={controls.unsent > 0} />
      ) : (
        <ChairButton main keyName="P" onPress={() => press("check_passed")}>
          passed
        </ChairButton>
      )}
      <ChairButton colour={night.stop} keyName="F" onPress={() => press("check_failed")}>
        failed
      </ChairButton>
    </>
  );
}

function Back({ run: { state }, controls }: Props) {
  const atStart = state.index === 0 && state.detour.length === 0;
  return (
    <ChairButton
      keyName="Backspace"
      disabled={atStart}
      onPress={() => controls.happen("step_back")}
    >
      back
    </ChairButton>
  );
}

/** Whether a dam is on: placed, and not taken off yet. */
function isDammed({ sequence, state }: Run): boolean {
  const done = sequence.slice(0, state.index);
  return done.includes("isolate.dam") && !done.includes("isolate.dam_off");
}

/** What may come between at a step. */
function Otherwise({ run, step, controls }: Props) {
  const press = controls.happen;
  const { state } = run;
  return (
    <>
      <ChairButton small keyName="W" disabled={!step.wet} onPress={() => press("got_wet")}>
        contaminated
      </ChairButton>
      {step.stale ? (
        <ChairButton small colour={night.stop} keyName="O" onPress={() => press("mix_too_old")}>
          mix too old
        </ChairButton>
      ) : (
        <Deeper
          run={run}
          disabled={state.has_placed || controls.unsent > 0}
          onDeeper={(path, value) => press("deeper", { path, value })}
        />
      )}
      {step.stage === "matrix" && run.matrix_reasons.length > 0 && (
        <OtherMatrix
          run={run}
          disabled={state.has_placed || controls.unsent > 0}
          onOther={(text, reason) => press("other_matrix", { text, reason })}
        />
      )}
      {isDammed(run) && (
        <ChairButton small disabled={state.dam_torn} onPress={() => press("dam_torn")}>
          {state.dam_torn ? "dam to renew" : "dam torn"}
        </ChairButton>
      )}
      <Scan run={run} onScan={(text) => press("lot_scanned", { text })} />
      <PauseButton run={run} onPause={(reason) => press("paused", { reason })} />
    </>
  );
}
