import Box from "@mui/material/Box";
import { useState } from "react";
import { night, numerals } from "../theme/tokens";
import { ChairButton } from "./ChairButton";
import { ChairDialog } from "./ChairDialog";
import type { Run } from "./useRun";

const MORE_MM = [0.5, 1, 1.5, 2];

interface Props {
  run: Run;
  disabled: boolean;
  onDeeper: (path: string, value: number) => void;
}

/** The cavity turned out deeper: the new depth in two taps. */
export function Deeper({ run, disabled, onDeeper }: Props) {
  const [open, setOpen] = useState(false);
  const depths = run.drawing.sheets
    .flatMap((sheet) => sheet.dimensions)
    .filter((one) => one.deepens);
  return (
    <>
      <ChairButton small disabled={disabled} onPress={() => setOpen(true)}>
        deeper
      </ChairButton>
      <ChairDialog open={open} title="How deep is it now?" onClose={() => setOpen(false)}>
        {depths.map((d) => (
          <Box key={d.case_path} sx={{ mb: 3 }}>
            <Box sx={{ fontSize: 22, mb: 1 }}>
              {d.title}, planned {d.value.toFixed(1)} mm
            </Box>
            <Box sx={{ display: "flex", flexWrap: "wrap", gap: 1.5, ...numerals }}>
              {MORE_MM.map((more) => d.value + more)
                .filter((value) => value <= d.max)
                .map((value) => (
                  <ChairButton
                    key={value}
                    colour={night.beam}
                    onPress={() => {
                      setOpen(false);
                      onDeeper(d.case_path, Math.round(value * 10) / 10);
                    }}
                  >
                    {value.toFixed(1)} mm
                  </ChairButton>
                ))}
            </Box>
          </Box>
        ))}
      </ChairDialog>
    </>
  );
}
