import Box from "@mui/material/Box";
import type { Theme } from "@mui/material/styles";
import useMediaQuery from "@mui/material/useMediaQuery";
import { type ReactNode, useCallback, useEffect, useState } from "react";
import { useNavigate, useParams } from "react-router";
import type { Step } from "../api/client";
import { Trouble } from "../shell/Trouble";
import { Waiting } from "../shell/Waiting";
import { night } from "../theme/tokens";
import { Bar, PhoneBar } from "./Bar";
import { Header, Switch } from "./Header";
import { Paused } from "./Pause";
import { MiniSection } from "./MiniSection";
import { Progress } from "./Progress";
import { Beat } from "./Beat";
import { Targets } from "./Targets";
import { Timer } from "./Timer";
import { HandOver } from "./HandOver";
import { PedalPlates } from "./PedalPlates";
import { useChairKeys } from "./keys";
import { SimulatedPedal, keyboardPedal } from "./pedal";
import { useSession } from "../session/queries";
import { useSound } from "./sound";
import { type Run, type RunControls, useRun } from "./useRun";
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
  const isPhone = useMediaQuery((theme: Theme) => theme.breakpoints.down("sm"));
  const sound = useSound(useSession().data?.user?.hears ?? false);
  useChairKeys(Boolean(step?.check), isLast, pedals, controls.happen);
  const { happen } = controls;
  const onMixed = useCallback((id: string) => happen("mixed", { id }), [happen]);
  // Between a new plan's number and its steps there is a moment without.
  if (!step) return <Waiting text="Fetching the new plan" />;
  const clock = step.rhythm ? (
    <Beat step={step} rhythm={step.rhythm} state={state} sound={sound} />
  ) : (
    <Timer step={step} state={state} sound={sound} />
  );
  const switches = (
    <>
      <Switch name="sound" isOn={sound.isOn} onPress={sound.toggle} />
      <Switch name="pedal" isOn={hasPlates} onPress={() => setHasPlates(!hasPlates)} />
    </>
  );
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
        {!isPhone && switches}
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
          {!isPhone && clock}
          <Targets
            step={step}
            state={state}
            onMeasured={(id, value) => controls.happen("measured", { id, value })}
          />
          {!step.targets?.length && <MiniSection run={run} step={step} />}
        </Box>
      </Box>
      <HandOver run={run} step={step} sound={sound} onMixed={onMixed} />
      {isPhone ? (
        <PhoneBar
          run={run}
          step={step}
          isLast={isLast}
          controls={controls}
          clock={clock}
          switches={switches}
        />
      ) : (
        <Bar run={run} step={step} isLast={isLast} controls={controls} />
      )}
      <Progress run={run} />
      <Paused run={run} onResume={() => controls.happen("resumed")} />
      {hasPlates && <PedalPlates pedal={simulated} />}
    </Box>
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
