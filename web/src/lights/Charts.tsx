import { ChartsContainer } from "@mui/x-charts/ChartsContainer";
import { ChartsGrid } from "@mui/x-charts/ChartsGrid";
import { ChartsReferenceLine } from "@mui/x-charts/ChartsReferenceLine";
import { ChartsXAxis } from "@mui/x-charts/ChartsXAxis";
import { ChartsYAxis } from "@mui/x-charts/ChartsYAxis";
import { LinePlot } from "@mui/x-charts/LineChart";
import { ScatterPlot } from "@mui/x-charts/ScatterChart";
import Box from "@mui/material/Box";
import { paper } from "../theme/tokens";
import type { Lamp } from "./queries";

const HEIGHT = 190;
const AXIS = { disableLine: false, tickLabelStyle: { fontSize: 14, fill: paper.soft } } as const;
const MARGIN = { top: 12, right: 26, bottom: 0, left: 0 };
const LOOK = {
  "& .MuiChartsAxis-line, & .MuiChartsAxis-tick": { stroke: paper.ink },
  "& .MuiChartsAxis-label": { fontSize: "14px !important", fill: `${paper.soft} !important` },
  "& .MuiChartsGrid-line": { stroke: paper.rule, strokeDasharray: "1 4" },
  "& .MuiLineElement-root": { strokeWidth: 2 },
} as const;

type Beam = NonNullable<Lamp["beam"]>;

/** What the lamp gave at contact, day by day, against what it must give. */
export function OutputChart({ lamp, beam }: { lamp: Lamp; beam: Beam }) {
  const days = lamp.days.map((d) => new Date(d.day).getTime());
  const outputs = lamp.days.map((d) => d.contact_mw_cm2);
  const wanted = beam.wanted.contact_mw_cm2;
  return (
    <Figure title="Output at contact" unit="mW/cm²">
      <ChartsContainer
        height={HEIGHT}
        margin={MARGIN}
        series={[
          { type: "line", data: outputs, color: paper.beam, curve: "linear" },
          {
            type: "scatter",
            data: days.map((x, i) => ({ id: i, x, y: outputs[i] ?? 0 })),
            color: paper.beam,
            markerSize: 5,
          },
        ]}
        xAxis={[
          {
            data: days,
            scaleType: "time",
            tickNumber: 4,
            height: 30,
            valueFormatter: (day: number) => MONTH.format(day),
            ...AXIS,
          },
        ]}
        yAxis={[
          {
            min: 0,
            max: 1.15 * Math.max(wanted, ...outputs),
            width: 46,
            tickNumber: 4,
            valueFormatter: String,
            ...AXIS,
          },
        ]}
        sx={LOOK}
      >
        <ChartsGrid horizontal />
        <ChartsReferenceLine
          y={wanted}
          label={`required ${wanted.toFixed(0)}`}
          labelAlign="start"
          labelStyle={{ fontSize: 14, fill: paper.brick }}
          lineStyle={{ stroke: paper.brick, strokeDasharray: "6 4", strokeWidth: 1.5 }}
        />
        <LinePlot />
        <ScatterPlot />
        <ChartsXAxis />
        <ChartsYAxis />
      </ChartsContainer>
    </Figure>
  );
}

const MONTH = new Intl.DateTimeFormat("en-GB", { month: "short", timeZone: "UTC" });

/** The fitted beam along the axis, with the newest readings on it. */
export function BeamChart({ beam }: { beam: Beam }) {
  return (
    <Figure title="By distance from the tip" unit="mW/cm²">
      <ChartsContainer
        height={HEIGHT}
        margin={MARGIN}
        series={[
          {
            type: "line",
            data: beam.curve.map((p) => p.irradiance_mw_cm2),
            color: paper.beam,
          },
          {
            type: "scatter",
            data: beam.residuals.map((r, i) => ({ id: i, x: r.distance_mm, y: r.measured_mw_cm2 })),
            color: paper.ink,
            markerSize: 5,
          },
        ]}
        xAxis={[
          {
            data: beam.curve.map((p) => p.distance_mm),
            min: 0,
            max: 12,
            height: 30,
            valueFormatter: (mm: number) => `${mm} mm`,
            ...AXIS,
          },
        ]}
        yAxis={[{ min: 0, width: 46, tickNumber: 4, valueFormatter: String, ...AXIS }]}
        sx={LOOK}
      >
        <ChartsGrid horizontal />
        <LinePlot />
        <ScatterPlot />
        <ChartsXAxis />
        <ChartsYAxis />
      </ChartsContainer>
    </Figure>
  );
}

function Figure({
  title,
  unit,
  children,
}: {
  title: string;
  unit: string;
  children: React.ReactNode;
}) {
  return (
    <Box component="figure" aria-label={title} sx={{ m: 0, minWidth: 0 }}>
      <Box component="figcaption" sx={{ fontWeight: 700 }}>
        {title} <span style={{ fontWeight: 400, color: paper.soft }}>{unit}</span>
      </Box>
      {children}
    </Box>
  );
}
