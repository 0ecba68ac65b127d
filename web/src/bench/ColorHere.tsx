import Box from "@mui/material/Box";
import type { Schemas } from "../api/client";
import { numerals, paper } from "../theme/tokens";
import { Why } from "./Why";

type Face = Schemas["ColorFace"];

const WIDE_PX = 120;
const BACK_PX = 14;
const HIGH_PX = 26;
const FILLS = { enamel: paper.verdigrisPale, body: paper.sheet, dentin: paper.dentin } as const;

const UNPREDICTED = {
  near_margin: "too near the margin to predict",
  thin: "too thin an edge to predict",
} as const;

/** What lies behind one place of the face, from the front to the back, and how far its color is off. */
export function ColorHere({ face, picked }: { face: Face; picked: number }) {
  const here = face.columns[picked];
  if (!here) return null;
  const layers = face.layers
    .map((layer, i) => ({ ...layer, mm: here.lengths_mm[i] ?? 0 }))
    .filter(({ mm }) => mm > 0);
  const whole = layers.reduce((sum, { mm }) => sum + mm, 0);
  const behind = here.has_tooth_behind ? "tooth" : "mouth";
  return (
    <Box
      role="group"
      aria-label="Layers at this place"
      sx={{
        display: "flex",
        alignItems: "center",
        gap: 1,
        px: 1,
        py: 0.25,
        minHeight: 44,
        fontSize: 15,
        lineHeight: 1.3,
        bgcolor: paper.sheet,
        border: `1px solid ${paper.rule}`,
        ...numerals,
      }}
    >
      <Box
        component="svg"
        aria-hidden="true"
        sx={{
          flex: "none",
          width: WIDE_PX + BACK_PX,
          height: HIGH_PX,
          // On a phone it would hide the tooth.
          display: { xs: "none", sm: "block" },
        }}
      >
        {layers.map(({ name, role, mm }, i) => {
          const before = layers.slice(0, i).reduce((sum, one) => sum + one.mm, 0);
          return (
            <rect
              key={`${name} ${i}`}
              x={(before / whole) * WIDE_PX}
              width={(mm / whole) * WIDE_PX}
              height={HIGH_PX}
              fill={FILLS[role]}
              stroke={paper.ink}
            />
          );
        })}
        <rect
          x={WIDE_PX}
          width={BACK_PX}
          height={HIGH_PX}
          fill={here.has_tooth_behind ? paper.enamel : paper.ink}
          stroke={paper.ink}
        />
      </Box>
      <span aria-live="polite">
        {layers.map(({ role, mm }) => `${role} ${mm.toFixed(1)}`).join(", ")} mm, {behind} behind:{" "}
        {here.unpredicted ? (
          UNPREDICTED[here.unpredicted]
        ) : (
          <strong>dE00 {here.de00.toFixed(1)}</strong>
        )}
      </span>
      <Why
        title="Color at this place"
        how="The layers of the planned increments along a straight way from the face, over what lies behind, against the color that was read."
        rules={face.rules}
      />
    </Box>
  );
}
