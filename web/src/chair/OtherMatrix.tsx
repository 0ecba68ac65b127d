import Box from "@mui/material/Box";
import { useState } from "react";
import { night } from "../theme/tokens";
import { ChairButton } from "./ChairButton";
import { ChairDialog } from "./ChairDialog";
import type { Run } from "./useRun";

const BANDS: [code: string, name: string][] = [
  ["sectional", "sectional"],
  ["circumferential", "round, in a retainer"],
  ["clear", "clear"],
];

interface Props {
  run: Run;
  disabled: boolean;
  onOther: (band: string, reason: string) => void;
}

/** The matrix will not do: why, and which other, in three taps. */
export function OtherMatrix({ run, disabled, onOther }: Props) {
  const [isOpen, setIsOpen] = useState(false);
  const [reason, setReason] = useState("");
  return (
    <>
      <ChairButton
        small
        disabled={disabled}
        onPress={() => {
          setReason("");
          setIsOpen(true);
        }}
      >
        other matrix
      </ChairButton>
      <ChairDialog
        open={isOpen}
        title={reason ? `It ${reason}: which other?` : "Why another matrix?"}
        onClose={() => setIsOpen(false)}
      >
        <Box sx={{ display: "grid", gap: 1.5, mb: 3 }}>
          {reason
            ? BANDS.map(([code, name]) => (
                <ChairButton
                  key={code}
                  colour={night.beam}
                  onPress={() => {
                    setIsOpen(false);
                    onOther(code, reason);
                  }}
                >
                  {name}
                </ChairButton>
              ))
            : run.matrix_reasons.map((one) => (
                <ChairButton key={one} onPress={() => setReason(one)}>
                  {one}
                </ChairButton>
              ))}
        </Box>
      </ChairDialog>
    </>
  );
}
