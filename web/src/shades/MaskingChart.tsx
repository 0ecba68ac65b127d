import Box from "@mui/material/Box";
import { ChartsReferenceLine } from "@mui/x-charts/ChartsReferenceLine";
import { LineChart } from "@mui/x-charts/LineChart";
import { paper } from "../theme/tokens";
import { limitOf } from "./limits";
import type { Shade } from "./queries";

const HEIGHT = 280;
const INKS = [paper.ink, paper.verdigris, paper.ochre, paper.beam, paper.brick, paper.faint];
/** Told apart without their inks as well. */
const LINES = {
  "& path[data-series]": { strokeWidth: 2.5 },
  "& path[data-series='1']": { strokeDasharray: "8 4" },
  "& path[data-series='2']": { strokeDasharray: "2 4" },
  "& path[data-series='3']": { strokeDasharray: "12 4 2 4" },
  "& path[data-series='4']": { strokeDasharray: "4 4" },
  "& path[data-series='5']": { strokeDasharray: "16 4" },
} as const;
const LIMITS = [
  ["acceptable", "accepted"],
  ["perceptible", "not seen"],
] as const;
/** Thinner layers let so much through that nobody asks how much. */
const MOST_DE00 = 12;
const AXIS = { tickLabelStyle: { fontSize: 14, fill: paper.soft } } as const;

/** How much of the dark of the mouth still shows through each composite, by its thickness. */
export function MaskingChart({ shades }: { shades: Shade[] }) {
  const [first] = shades;
  const limits = LIMITS.map(
    ([limit, name]) => [first?.color ? limitOf(first.color, limit) : 0, name] as const,
  );
  const thick = shades[0]?.color?.masking.map((one) => one.thickness_mm) ?? [];
  return (
    <Box component="figure" aria-label="What shows of the mouth" sx={{ m: 0, mt: 2, minWidth: 0 }}>
      <Box component="figcaption" sx={{ fontWeight: 700 }}>
        What shows of the mouth{" "}
        <span style={{ fontWeight: 400, color: paper.soft }}>dE00, by thickness</span>
      </Box>
      <LineChart
        height={HEIGHT}
        margin={{ top: 8, right: 28, bottom: 0, left: 0 }}
        series={shades.map((one, i) => ({
          id: String(i),
          label: one.name,
          data: one.color?.masking.map((at) => at.shows_de00) ?? [],
          color: INKS[i % INKS.length] ?? paper.ink,
          showMark: false,
        }))}
        xAxis={[
          {
            data: thick,
            min: 0,
            valueFormatter: (mm: number) => `${mm} mm`,
            tickNumber: 5,
            height: 30,
            ...AXIS,
          },
        ]}
        yAxis={[{ min: 0, max: MOST_DE00, width: 40, ...AXIS }]}
        sx={LINES}
        slotProps={{ legend: { direction: "horizontal" } }}
      >
        {limits.map(([at, name]) => (
          <ChartsReferenceLine
            key={name}
            y={at}
            label={`${name}, ${at}`}
            labelAlign="start"
            labelStyle={{ fontSize: 14, fill: paper.brick }}
            lineStyle={{ stroke: paper.brick, strokeDasharray: "6 4" }}
          />
        ))}
      </LineChart>
    </Box>
  );
}
