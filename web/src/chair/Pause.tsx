import Box from "@mui/material/Box";
import { useState } from "react";
import { numerals } from "../theme/tokens";
import { ChairButton } from "./ChairButton";
import { ChairDialog } from "./ChairDialog";
import { minutesSeconds, useServerTime } from "./clock";
import type { Run } from "./useRun";

interface PauseProps {
  run: Run;
  onPause: (reason: string) => void;
}

/** Asks why before the time stands still. */
export function PauseButton({ run, onPause }: PauseProps) {
  const [open, setOpen] = useState(false);
  return (
    <>
      <ChairButton small onPress={() => setOpen(true)}>
        pause
      </ChairButton>
      <ChairDialog open={open} title="Why pause?" onClose={() => setOpen(false)}>
        <Box sx={{ display: "grid", gap: 1.5, mb: 3 }}>
          {run.pause_reasons.map((reason) => (
            <ChairButton
              key={reason}
              onPress={() => {
                setOpen(false);
                onPause(reason);
              }}
            >
              {reason}
            </ChairButton>
          ))}
        </Box>
      </ChairDialog>
    </>
  );
}

/** Covers the view while the run is paused. */
export function Paused({ run, onResume }: { run: Run; onResume: () => void }) {
  const now = useServerTime();
  const { paused_at, paused_why } = run.state;
  if (!paused_at) return null;
  const seconds = Math.max(0, (now - Date.parse(paused_at)) / 1000);
  return (
    <ChairDialog open title="Paused">
      <Box sx={{ fontSize: 26 }}>{paused_why}</Box>
      <Box sx={{ fontSize: 96, fontWeight: 700, lineHeight: 1.2, ...numerals }}>
        {minutesSeconds(seconds)}
      </Box>
      <ChairButton main onPress={onResume}>
        go on
      </ChairButton>
    </ChairDialog>
  );
}
