import Box from "@mui/material/Box";
import { useState } from "react";
import type { Schemas, Step } from "../api/client";
import { signedTenths } from "../shell/numbers";
import { night, numerals } from "../theme/tokens";
import { ChairButton } from "./ChairButton";
import { ChairDialog } from "./ChairDialog";
import type { RunState } from "./fold";

export type Target = Schemas["Target"];
/** So many figures to either side of what is planned can be tapped. */
const REACH = 8;
const HAIR = 1e-6;

interface Props {
  step: Step;
  state: RunState;
  onMeasured: (id: string, value: number) => void;
}

/** The figures to work to at a step; each may be measured and tapped in. */
export function Targets({ step, state, onMeasured }: Props) {
  const [open, setOpen] = useState<string | null>(null);
  const targets = step.targets ?? [];
  const asked = targets.find((target) => target.id === open);
  const found = (id: string) =>
    state.measured.find((one) => one.step_id === step.id && one.id === id)?.value;
  if (targets.length === 0) return null;
  return (
    <Box
      role="group"
      aria-label="Work to"
      sx={{
        flex: "1 1 420px",
        minWidth: 0,
        display: "grid",
        gridTemplateColumns: "repeat(auto-fit, minmax(min(100%, 400px), 1fr))",
        gap: 1,
      }}
    >
      {targets.map((target) => (
        <Row
          key={target.id}
          target={target}
          value={found(target.id)}
          onPress={() => setOpen(target.id)}
        />
      ))}
      <ChairDialog
        open={asked !== undefined}
        title={asked ? [`${asked.title}: measured`, asked.unit].filter(Boolean).join(", ") : ""}
        onClose={() => setOpen(null)}
      >
        {asked && (
          <Box
            sx={{
              display: "grid",
              gridTemplateColumns: "repeat(auto-fill, minmax(104px, 1fr))",
              gap: 1.5,
              mb: 3,
              ...numerals,
            }}
          >
            <Box sx={{ gridColumn: "1 / -1", fontSize: 20, color: night.soft }}>
              {asked.detail}; planned {told(asked, asked.value)} {asked.unit}
            </Box>
            {around(asked.value, asked.interval ?? 0.1).map((value) => (
              <ChairButton
                key={value}
                small
                colour={
                  Math.abs(value - asked.value) < (asked.interval ?? 0.1) / 2
                    ? night.beam
                    : offTarget(asked, value)
                      ? night.warn
                      : night.go
                }
                onPress={() => {
                  setOpen(null);
                  onMeasured(asked.id, value);
                }}
              >
                {told(asked, value)}
              </ChairButton>
            ))}
          </Box>
        )}
      </ChairDialog>
    </Box>
  );
}

interface RowProps {
  target: Target;
  value: number | undefined;
  onPress: () => void;
}

function Row({ target, value, onPress }: RowProps) {
  const off = value === undefined ? "" : offTarget(target, value);
  const colour = off ? night.warn : value === undefined ? night.line : night.go;
  return (
    <Box
      component="button"
      type="button"
      onClick={onPress}
      sx={{
        minHeight: 72,
        p: "6px 14px",
        font: "inherit",
        textAlign: "left",
        color: night.text,
        bgcolor: "transparent",
        border: `2px solid ${colour}`,
        cursor: "pointer",
        display: "grid",
        gridTemplateColumns: "minmax(0, 1fr) auto",
        columnGap: 2,
        alignItems: "center",
        "&:focus-visible": { outline: `3px solid ${night.beam}` },
      }}
    >
      <span>
        <Box component="span" sx={{ display: "block", fontSize: 20, fontWeight: 700 }}>
          {target.title}
        </Box>
        <Box component="span" sx={{ display: "block", fontSize: 16, color: night.soft }}>
          {target.detail}
        </Box>
      </span>
      <Box component="span" sx={{ textAlign: "right", ...numerals }}>
        <Box component="span" sx={{ display: "block", fontSize: 28, fontWeight: 700 }}>
          {told(target, target.value)}
          {"\u00a0"}
          {target.unit}
        </Box>
        <Box
          component="span"
          sx={{ display: "block", fontSize: 18, color: value === undefined ? night.soft : colour }}
        >
          {value === undefined ? "tap to enter" : `measured ${told(target, value)}`}
        </Box>
      </Box>
      {off && (
        <Box
          component="span"
          role="status"
          sx={{ gridColumn: "1 / -1", fontSize: 19, color: night.warn }}
        >
          <span aria-hidden="true">{"\u25b2"}</span> {off}
        </Box>
      )}
    </Box>
  );
}

/** What a figure that is not as wanted asks for; nothing for a good one. */
export function offTarget({ low, high, under, over }: Target, value: number): string {
  if (value > high + HAIR) return over;
  return value < low - HAIR ? under : "";
}

/** A height with its sign, another figure without. */
function told({ is_height }: Target, value: number): string {
  return is_height === false ? value.toFixed(1) : signedTenths(value);
}

/** The figures that can be tapped, around the one that is planned. */
function around(planned: number, interval: number): number[] {
  return Array.from({ length: 2 * REACH + 1 }, (_, i) =>
    rounded(Math.round(planned / interval) * interval + (i - REACH) * interval),
  );
}

function rounded(value: number): number {
  return Math.round(value * 10) / 10 + 0;
}
