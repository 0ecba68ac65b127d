import Box from "@mui/material/Box";
import TextField from "@mui/material/TextField";
import { useState } from "react";
import type { Problem, Schemas } from "../api/client";
import { cssOf } from "../bench/lab";
import { Why } from "../bench/Why";
import { PickCsv, Problems } from "../shell/PickCsv";
import { numerals, paper } from "../theme/tokens";
import { useLooks } from "./queries";

type CompositeColor = Schemas["CompositeColor"];

const KNOWN: Record<CompositeColor["known_by"], string> = {
  spectral: "by spectra over black and over white",
  lab: "by color over black and over white",
  family: "by name and opacity alone",
};

/** How a composite looks by itself, and reading what an instrument measured of it. */
export function Looks({ itemId }: { itemId: number }) {
  const { color, isKnown, keep } = useLooks(itemId);
  const [thickness, setThickness] = useState("1.0");
  const [problems, setProblems] = useState<Problem[]>([]);
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
      <Box sx={{ display: "flex", flexWrap: "wrap", alignItems: "center", gap: 2, mt: 1.5 }}>
        <TextField
          label="specimen, mm"
          value={thickness}
          onChange={(event) => setThickness(event.target.value)}
          slotProps={{ htmlInput: { inputMode: "decimal" } }}
          sx={{ width: 130 }}
        />
        <PickCsv
          label="Read spectra from a file"
          onText={async (text) => {
            const thickness_mm = Number(thickness.replace(",", "."));
            await keep.mutateAsync({ text, thickness_mm });
          }}
          onProblems={setProblems}
        />
      </Box>
      <Box sx={{ color: "text.secondary", fontSize: 14, mt: 0.5 }}>
        Columns wavelength_nm, over_black, over_white, black, white; 400 to 700 nm every 10 nm,
        shares from 0 to 1.
      </Box>
      <Problems problems={problems} />
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
