import Box from "@mui/material/Box";
import { type ReactNode, useCallback, useEffect, useState } from "react";
import { Link, useNavigate, useParams } from "react-router";
import type { Step } from "../api/client";
import { useClock } from "../session/time";
import { Trouble } from "../shell/Trouble";
import { Waiting } from "../shell/Waiting";
import { night, numerals } from "../theme/tokens";
import { ChairButton } from "./ChairButton";
import { Deeper } from "./Deeper";
import { PauseButton, Paused } from "./Pause";
import { MiniSection } from "./MiniSection";
import { OtherMatrix } from "./OtherMatrix";
import { Progress } from "./Progress";
import { Scan } from "./Scan";
import { Beat } from "./Beat";
import { Targets } from "./Targets";
import { Timer } from "./Timer";
import { HandOver } from "./HandOver";
import { TeacherPasses } from "./Hold";
import { PedalPlates } from "./PedalPlates";
import { serverTime } from "./clock";
import { useChairKeys } from "./keys";
import { SimulatedPedal, keyboardPedal } from "./pedal";
import { useSession } from "../session/queries";
import { useSound } from "./sound";
import { type Run, type RunControls, useRun, waitsForTeacher } from "./useRun";
import { useWakeLock } from "./useWakeLock";

/** One step at a time, huge and dark: what to do, how long, and what to hand over next. */
export default function ChairView() {
  const id = Number(useParams().runId);
  const controls = useRun(id);
  const navigate = useNavigate();
  const recordId = controls.run?.state.finished ? controls.run.state.record_id : null;
  useWakeLock();
  useEffect(() => {
    if (recordId) void navigate(`/records/${recordId}`, { replace: true });
  }, [recordId, navigate]);
  if (controls.error) return <Trouble error={controls.error} />;
  if (!controls.run) return <Waiting text="Fetching the run" />;
  return <Chair run={controls.run} controls={controls} />;
}

function Chair({ run, controls }: { run: Run; controls: RunControls }) {
  const { state } = run;
  const step = run.steps.find((s) => s.id === state.step_id);
  const isLast = state.index === state.count - 1 && state.detour.length === 0;
  const [simulated] = useState(() => new SimulatedPedal());
  const [pedals] = useState(() => [keyboardPedal, simulated]);
  const [hasPlates, setHasPlates] = useState(false);
  const sound = useSound(useSession().data?.user?.hears ?? false);
  useChairKeys(Boolean(step?.check), isLast, pedals, controls.happen);
  const { happen } = controls;
  const onMixed = useCallback((id: string) => happen("mixed", { id }), [happen]);
  // Between a new plan's number and its steps there is a moment without.
  if (!step) return <Waiting text="Fetching the new plan" />;
  return (
    <Box
      component="main"
      sx={{
        minHeight: "100dvh",
        bgcolor: night.room,
        color: night.text,
        display: "grid",
        gridTemplateRows: "auto 1fr auto auto",
        gridTemplateColumns: {
          xs: "minmax(0, 1fr)",
          md: "minmax(0, 1fr) clamp(320px, 30vw, 600px)",
        },
      }}
    >
      <Header run={run} controls={controls}>
        <Switch name="sound" isOn={sound.isOn} onPress={sound.toggle} />
        <Switch name="pedal" isOn={hasPlates} onPress={() => setHasPlates(!hasPlates)} />
      </Header>
      <Box sx={{ p: { xs: 2, md: 4 }, pt: { xs: 2, md: 3 }, minWidth: 0 }}>
        <StepWords run={run} step={step} said={controls.said} />
        <Box
          sx={{
            display: "flex",
            flexWrap: "wrap",
            gap: { xs: 2, md: 6 },
            alignItems: "center",
            mt: 2,
          }}
        >
          {step.rhythm ? (
            <Beat step={step} rhythm={step.rhythm} state={state} sound={sound} />
          ) : (
            <Timer step={step} state={state} sound={sound} />
          )}
          <Targets
            step={step}
            state={state}
            onMeasured={(id, value) => controls.happen("measured", { id, value })}
          />
          {!step.targets?.length && <MiniSection run={run} step={step} />}
        </Box>
      </Box>
      <HandOver run={run} step={step} sound={sound} onMixed={onMixed} />
      <Actions run={run} step={step} isLast={isLast} controls={controls} />
      <Progress run={run} />
      <Paused run={run} onResume={() => controls.happen("resumed")} />
      {hasPlates && <PedalPlates pedal={simulated} />}
    </Box>
  );
}

interface HeaderProps {
  run: Run;
  controls: RunControls;
  children: ReactNode;
}

function Header({ run, controls, children }: HeaderProps) {
  const clock = useClock();
  return (
    <Box
      sx={{
        gridColumn: "1 / -1",
        display: "flex",
        flexWrap: "wrap",
        columnGap: 3,
        alignItems: "center",
        px: { xs: 2, md: 4 },
        py: 1.5,
        fontSize: 18,
        color: night.soft,
        borderBottom: `1px solid ${night.line}`,
        ...numerals,
      }}
    >
      <Box sx={{ color: night.text, fontWeight: 700 }}>
        {run.tooth} {run.surfaces}, {run.material}
        {run.visit && `: ${run.visit.toLowerCase()}`}
      </Box>
      <span>
        step {run.state.index + 1} of {run.state.count}
        {run.state.detour.length > 0 &&
          `, doing again ${run.state.detour_at + 1} of ${run.state.detour.length}`}
      </span>
      <span>started {clock.time(run.started_at)}</span>
      <Pace run={run} />
      <Box sx={{ ml: "auto", display: "flex", gap: 2, alignItems: "center" }}>
        {controls.unsent > 0 && (
          <Box role="status" sx={{ color: night.warn, fontWeight: 700 }}>
            unsent: {controls.unsent}, trying again
          </Box>
        )}
        {children}
        <span style={{ whiteSpace: "nowrap" }}>{run.chair}</span>
        <Link to="/" style={{ color: night.soft }}>
          Today
        </Link>
      </Box>
      {run.flags.map((f) => (
        <Box
          key={f.code}
          role="status"
          sx={{ flexBasis: "100%", color: f.level === "stop" ? night.stop : night.warn }}
        >
          <span aria-hidden="true">{f.level === "stop" ? "\u25a0" : "\u25b2"}</span> {f.text}
        </Box>
      ))}
    </Box>
  );
}

interface SwitchProps {
  name: string;
  isOn: boolean;
  onPress: () => void;
}

function Switch({ name, isOn, onPress }: SwitchProps) {
  return (
    <Box
      component="button"
      type="button"
      aria-pressed={isOn}
      onClick={onPress}
      sx={{
        minHeight: 56,
        px: 2,
        whiteSpace: "nowrap",
        font: "inherit",
        color: isOn ? night.go : night.soft,
        bgcolor: "transparent",
        border: `2px solid ${isOn ? night.go : night.line}`,
        cursor: "pointer",
        "&:focus-visible": { outline: `3px solid ${night.beam}` },
      }}
    >
      {name} {isOn ? "on" : "off"}
    </Box>
  );
}

/** How far the run is ahead of the plan or behind it. */
function Pace({ run }: { run: Run }) {
  const step = run.steps.find((s) => s.id === run.state.step_id);
  const planned = step?.start_s ?? 0;
  const actual = (Date.parse(run.state.step_began) - Date.parse(run.started_at)) / 1000;
  const minutes = Math.round((planned - actual) / 60);
  if (serverTime() < Date.parse(run.started_at) || minutes === 0) return <span>on time</span>;
  return (
    <span>
      {Math.abs(minutes)} min {minutes > 0 ? "ahead" : "behind"}
    </span>
  );
}

function StepWords({ run, step, said }: { run: Run; step: Step; said: string }) {
  const one = run.increments.find((i) => i.order === step.increment);
  const place = one
    ? ` · increment ${one.order} of ${run.increments.length} · ${one.product}${thickness(one)}`
    : "";
  return (
    <>
      <Box sx={{ fontSize: "clamp(18px, 1.55vw, 28px)", color: night.soft }}>
        {run.stage_names[step.stage]}
        {place}
      </Box>
      <Box
        component="h1"
        data-testid="step-title"
        sx={{ m: 0, fontSize: "clamp(34px, 3.6vw, 72px)", lineHeight: 1.1, fontWeight: 700 }}
      >
        {step.title}
      </Box>
      <Box
        sx={{
          mt: 1,
          fontSize: "clamp(20px, 1.9vw, 36px)",
          lineHeight: 1.35,
          color: "#ded6c4",
          maxWidth: 1300,
        }}
      >
        {step.detail}
      </Box>
      {run.state.remedy && (
        <Notice colour={night.stop}>
          <strong>{run.state.remedy}</strong>
        </Notice>
      )}
      {said && <Notice colour={night.warn}>{said}</Notice>}
      {step.check && <Notice colour={night.beam}>Check: {step.check.question}</Notice>}
    </>
  );
}

/** Returns how thick an increment is, where that is one of its numbers. */
function thickness({ measures }: Run["increments"][number]): string {
  const found = measures.find((measure) => measure.id === "thickness");
  return found ? `, ${found.value.toFixed(1)} ${found.unit}` : "";
}

function Notice({ colour, children }: { colour: string; children: ReactNode }) {
  return (
    <Box
      role="status"
      sx={{
        mt: 1.5,
        p: "10px 16px",
        fontSize: "clamp(19px, 1.65vw, 30px)",
        border: `2px solid ${colour}`,
        color: night.text,
        maxWidth: 1300,
      }}
    >
      {children}
    </Box>
  );
}

/** Whether a dam is on: placed, and not taken off yet. */
function isDammed({ sequence, state }: Run): boolean {
  const done = sequence.slice(0, state.index);
  return done.includes("isolate.dam") && !done.includes("isolate.dam_off");
}

interface ActionsProps {
  run: Run;
  step: Step;
  isLast: boolean;
  controls: RunControls;
}

function Actions({ run, step, isLast, controls }: ActionsProps) {
  const press = controls.happen;
  const { state } = run;
  const atStart = state.index === 0 && state.detour.length === 0;
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
      {step.check ? (
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
      ) : (
        <ChairButton main keyName="Space" onPress={() => press(isLast ? "finished" : "step_done")}>
          {isLast ? "finish" : "next"}
        </ChairButton>
      )}
      <ChairButton keyName="Backspace" disabled={atStart} onPress={() => press("step_back")}>
        back
      </ChairButton>
      <Box sx={{ ml: { md: "auto" }, display: "flex", flexWrap: "wrap", gap: { xs: 1, md: 2 } }}>
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
      </Box>
    </Box>
  );
}
