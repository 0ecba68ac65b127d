import Box from "@mui/material/Box";
import type { ReactNode } from "react";
import { Link } from "react-router";
import { useClock } from "../session/time";
import { night, numerals } from "../theme/tokens";
import { serverTime } from "./clock";
import type { Run, RunControls } from "./useRun";

interface HeaderProps {
  run: Run;
  controls: RunControls;
  children: ReactNode;
}

/** Which restoration is placed, at which step, how far from the plan in time. */
export function Header({ run, controls, children }: HeaderProps) {
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

export function Switch({ name, isOn, onPress }: SwitchProps) {
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
