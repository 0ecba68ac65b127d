import Box from "@mui/material/Box";
import type { Schemas } from "../api/client";
import { cssOf } from "../bench/lab";
import { Why } from "../bench/Why";
import { numerals, paper } from "../theme/tokens";
import { MeasureLooks } from "./MeasureLooks";
import { useLooks } from "./queries";

type CompositeColor = Schemas["CompositeColor"];

const KNOWN: Record<CompositeColor["known_by"], string> = {
  spectral: "by spectra over black and over white",
  lab: "by color over black and over white",
  family: "by name and opacity alone",
};

/** How a composite looks by itself, and telling what was measured of it, of one of its lots. */
export function Looks({ itemId, lots }: { itemId: number; lots: string[] }) {
  const { color, isKnown } = useLooks(itemId);
  if (!isKnown) return null;
  return (
    <Box component="section" aria-label="How it looks">
      <Box component="h2" sx={{ m: 0, mb: 0.5, fontSize: 18 }}>
        How it looks
      </Box>
      {color ? (
        <Told color={color} />
      ) : (
        <Box>Measure it over black and over white: until then no plan weighs its color.</Box>
      )}
      <MeasureLooks itemId={itemId} lots={lots} />
    </Box>
  );
}

function Told({ color }: { color: CompositeColor }) {
  const patches = [
    ["1 mm over black", color.over_black],
    ["1 mm over white", color.over_white],
    ["in bulk", color.deep],
  ] as const;
  const depths = [
    ["accepted from", color.accepted_from_mm],
    ["not seen from", color.unseen_from_mm],
  ] as const;
  return (
    <>
      <Box sx={{ display: "grid", gridTemplateColumns: "repeat(3, 1fr)", gap: 1, maxWidth: 520 }}>
        {patches.map(([name, lab]) => (
          <Box key={name} sx={{ fontSize: 15 }}>
            <Box sx={{ height: 56, border: `1px solid ${paper.soft}`, bgcolor: cssOf(lab) }} />
            <strong>{name}</strong>
            <Box sx={{ color: "text.secondary", ...numerals }}>{lab.join(" / ")}</Box>
          </Box>
        ))}
      </Box>
      <Box sx={{ mt: 1 }}>Hides the dark of the mouth</Box>
      {depths.map(([name, mm]) => (
        <Box key={name} sx={{ display: "flex", alignItems: "baseline", gap: 1, ...numerals }}>
          <Box component="span" sx={{ color: "text.secondary" }}>
            {name}
          </Box>
          <Box component="strong" sx={{ fontSize: 24 }}>
            {mm === null ? "never" : mm.toFixed(1)}
          </Box>
          {mm !== null && "mm"}
        </Box>
      ))}
      <Box sx={{ color: "text.secondary" }}>
        Translucency {color.translucency} at 1 mm. Known {KNOWN[color.known_by]}, ±
        {color.unsure_de00} dE00. Patches are approximate.
        <Why title="How it looks" rules={color.rules} />
      </Box>
    </>
  );
}
