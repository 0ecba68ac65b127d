import Box from "@mui/material/Box";
import { night } from "../theme/tokens";
import type { Plate, SimulatedPedal } from "./pedal";

const PLATES: { plate: Plate; name: string }[] = [
  { plate: "back", name: "back" },
  { plate: "on", name: "on" },
];

/** The simulated pedal: two plates at the foot of the screen. */
export function PedalPlates({ pedal }: { pedal: SimulatedPedal }) {
  return (
    <Box
      role="group"
      aria-label="Simulated pedal"
      sx={{
        position: "fixed",
        left: { md: 32 },
        right: { xs: 16, md: "auto" },
        bottom: { xs: 190, md: 120 },
        zIndex: 2,
        p: 1.5,
        bgcolor: night.panel,
        border: `2px solid ${night.line}`,
      }}
    >
      <Box sx={{ fontSize: 16, color: night.soft, mb: 1 }}>simulated pedal</Box>
      <Box sx={{ display: "flex", gap: 1.5 }}>
        {PLATES.map(({ plate, name }) => (
          <Box
            key={plate}
            component="button"
            type="button"
            onPointerDown={() => pedal.press(plate)}
            sx={{
              width: 96,
              height: 120,
              font: "inherit",
              fontSize: 20,
              color: night.text,
              bgcolor: "transparent",
              border: `2px solid ${night.line}`,
              borderBottomWidth: 14,
              cursor: "pointer",
              touchAction: "manipulation",
              "&:active": { borderBottomWidth: 6, transform: "translateY(4px)" },
              "&:focus-visible": { outline: `3px solid ${night.beam}` },
            }}
          >
            {name}
          </Box>
        ))}
      </Box>
    </Box>
  );
}
