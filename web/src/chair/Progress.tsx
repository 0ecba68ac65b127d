import Box from "@mui/material/Box";
import { useWidth } from "../shell/useWidth";
import { night } from "../theme/tokens";
import type { Run } from "./useRun";

/** The whole run to scale, and where it stands. */
export function Progress({ run }: { run: Run }) {
  const [ref, width] = useWidth<HTMLDivElement>();
  const steps = run.sequence
    .map((id) => run.steps.find((s) => s.id === id))
    .filter((s) => s !== undefined);
  const total = steps.reduce((sum, s) => sum + s.seconds, 0);
  const unit = width / Math.max(total, 1);
  let x = 0;
  return (
    <Box sx={{ gridColumn: "1 / -1", px: { xs: 2, md: 4 }, pb: 2 }}>
      <Box ref={ref}>
        <svg
          width={width}
          height="46"
          role="img"
          aria-label={`Step ${run.state.index + 1} of ${run.state.count}`}
        >
          {steps.map((step, i) => {
            const at = x;
            x += step.seconds * unit;
            const now = step.id === run.state.step_id;
            const again = run.state.detour.indexOf(step.id) >= run.state.detour_at;
            const done = i < run.state.index && !again;
            const idle = step.light ? night.beamDeep : night.panel;
            return (
              <rect
                key={step.id}
                x={at + 1}
                y={now ? 2 : 8}
                width={Math.max(step.seconds * unit - 2, 1)}
                height={now ? 42 : 30}
                fill={now ? night.go : done ? night.done : idle}
                stroke={step.light ? night.beam : night.line}
              />
            );
          })}
        </svg>
      </Box>
    </Box>
  );
}
