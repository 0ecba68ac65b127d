import Box from "@mui/material/Box";
import { Folded } from "../shell/Folded";
import { Why } from "../bench/Why";
import { Trouble } from "../shell/Trouble";
import { Verdict } from "../shell/Verdict";
import { Waiting } from "../shell/Waiting";
import { numerals, paper } from "../theme/tokens";
import { BeamChart, OutputChart } from "./Charts";
import { SecondsTable } from "./SecondsTable";
import { TakeReadings } from "./TakeReadings";
import { Outdated, Upkeep } from "./Upkeep";
import { type Lamp, useLamp } from "./queries";
import { dayOf } from "../session/time";
import { forecastOf, modeName } from "./words";

/** One lamp: what it gives, where that goes, how long it takes, and the means to read it again. */
export function LampPage({ id }: { id: number }) {
  const lamp = useLamp(id);
  if (lamp.isPending) return <Waiting />;
  if (lamp.isError) return <Trouble error={lamp.error} again={() => void lamp.refetch()} />;
  const { beam } = lamp.data;
  return (
    <Box
      sx={{
        display: "grid",
        gap: 2,
        gridTemplateColumns: "minmax(0, 1fr)",
        alignContent: "start",
      }}
    >
      <Head lamp={lamp.data} />
      <Outdated lamp={lamp.data} />
      {beam && (
        <Box
          className="no-print"
          sx={{
            display: "grid",
            gap: 2,
            gridTemplateColumns: { xs: "minmax(0, 1fr)", md: "minmax(0, 1fr) minmax(0, 1fr)" },
          }}
        >
          <Box>
            <OutputChart lamp={lamp.data} beam={beam} />
            <Box sx={{ fontSize: 15 }}>
              {forecastOf(lamp.data)}{" "}
              <Why
                title="Trend"
                how="A straight line through the logarithm of what each day’s readings say of the output at contact, by least squares, since the curing light was last cleaned or repaired. Dates: 95 % confidence range of the slope. The level is the required output."
                rules={beam.wanted.rules}
              />
            </Box>
          </Box>
          <Box>
            <BeamChart beam={beam} />
            <Fit beam={beam} />
          </Box>
        </Box>
      )}
      {beam && <SecondsTable lamp={lamp.data} table={beam.table} />}
      <Box
        sx={{
          display: "grid",
          gap: 2,
          gridTemplateColumns: { xs: "minmax(0, 1fr)", md: "minmax(0, 3fr) minmax(0, 2fr)" },
        }}
      >
        <TakeReadings key={id} lamp={lamp.data} />
        <Box>
          {beam && <Safety beam={beam} />}
          <Upkeep key={id} lamp={lamp.data} />
        </Box>
      </Box>
      <History lamp={lamp.data} />
    </Box>
  );
}

type Beam = NonNullable<Lamp["beam"]>;

function Head({ lamp }: { lamp: Lamp }) {
  const { beam } = lamp;
  return (
    <Box
      sx={{
        display: "grid",
        gap: 2,
        alignItems: "end",
        gridTemplateColumns: { xs: "minmax(0, 1fr)", md: "auto minmax(0, 1fr)" },
      }}
    >
      <Box>
        <Box component="h1" sx={{ m: 0, fontSize: 26 }}>
          {lamp.name}{" "}
          <span style={{ fontSize: 15, fontWeight: 400 }}>
            tip {lamp.tip_diameter_mm} mm, steps of {lamp.time_steps_s.join(", ")} s
            {lamp.output_modes.map((mode) => `, ${modeName(mode)}`)}
          </span>
        </Box>
        {beam ? (
          <Box data-output sx={{ fontSize: 54, lineHeight: 1, fontWeight: 700, ...numerals }}>
            {beam.contact_mw_cm2.toFixed(0)}
            <span style={{ fontSize: 18, fontWeight: 400 }}> mW/cm² at contact </span>
            <Why
              title="Output at contact"
              how={`A disc whose light falls off as a power of the cosine, fitted to the ${beam.residuals.length} readings of the newest day by the least relative errors. The exponent is ${beam.exponent.toFixed(2)}; 1 would be a matt disc.`}
              rules={[]}
            />
          </Box>
        ) : (
          <Box sx={{ fontSize: 20 }}>Not known yet: take readings at two distances or more.</Box>
        )}
      </Box>
      <Box>
        {beam && (
          <Box sx={{ color: "text.secondary" }}>
            required {beam.wanted.contact_mw_cm2.toFixed(0)} mW/cm²
            {beam.wanted.mass && ` for ${beam.wanted.mass}`}{" "}
            <Why
              title="Required output"
              how="Irradiance at contact that cures half the largest increment of each composite in stock, on the floor of a deep box, within the longest single exposure. At least the minimum output."
              rules={beam.wanted.rules}
            />
          </Box>
        )}
        <Box
          component="ul"
          aria-label="State of the curing light"
          sx={{ m: 0, p: 0, listStyle: "none" }}
        >
          {lamp.flags.map((f) => (
            <Verdict key={f.code} verdict={f.level === "stop" ? "fail" : "caution"} text={f.text} />
          ))}
          {lamp.flags.length === 0 && lamp.last_read_on && (
            <Verdict
              verdict="pass"
              text={`Read on ${dayOf(lamp.last_read_on)}; due every ${lamp.check_days} days`}
            />
          )}
        </Box>
      </Box>
    </Box>
  );
}

/** How far each of the newest readings lies off the fitted beam. */
function Fit({ beam }: { beam: Beam }) {
  const worst = Math.max(...beam.residuals.map((r) => Math.abs(r.off)));
  return (
    <Box sx={{ fontSize: 15, ...numerals }}>
      Fitted to {beam.residuals.length} readings, at most {(100 * worst).toFixed(1)} % off:{" "}
      {beam.residuals
        .map(
          (r) =>
            `${r.distance_mm}\u00a0mm\u00a0${r.off < 0 ? "\u2212" : "+"}${Math.abs(100 * r.off).toFixed(1)}\u00a0%`,
        )
        .join(", ")}
    </Box>
  );
}

function Safety({ beam: { safety } }: { beam: Beam }) {
  return (
    <Box
      component="section"
      aria-label="Eyes and pulp"
      sx={{ p: 1.5, mb: 2, bgcolor: paper.sheet, border: `1.5px solid ${paper.ochre}` }}
    >
      <Box component="ul" sx={{ listStyle: "none", m: 0, p: 0 }}>
        <Verdict
          verdict="caution"
          text={`Orange filter for everyone in view; never look at the tip. In blue light it is ${times(safety.direct_s)} times over an eye's daily limit, a lit tooth ${times(safety.reflected_s)} times.`}
        >
          <Why title="Eyes" rules={safety.eye_rules} />
        </Verdict>
        <Verdict
          verdict="caution"
          text={`Pause and blow air: ${safety.exposure_s} s in contact over ${safety.dentin_mm} mm of dentin raise the pulp by ${safety.warms_k.toFixed(0)} °C at least (no blood flow assumed). Caution from ${safety.careful_from_k} °C.`}
        >
          <Why title="Pulp" rules={safety.heat_rules} />
        </Verdict>
      </Box>
    </Box>
  );
}

/** The day's dose is spread over so many seconds for what is looked at all day (ICNIRP 2013). */
const LONG_DAY_S = 10000;

function times(s: number): string {
  return (LONG_DAY_S / s).toFixed(0);
}

function History({ lamp }: { lamp: Lamp }) {
  if (lamp.readings.length === 0) return null;
  const days = [...new Set(lamp.readings.map((r) => r.taken_on))].slice().reverse();
  return (
    <Box className="no-print">
      <Folded name={`All ${lamp.readings.length} readings of ${days.length} days`}>
        <Box component="ul" sx={{ listStyle: "none", m: 0, p: 0, ...numerals }}>
          {days.map((day) => {
            const of = lamp.readings.filter((r) => r.taken_on === day);
            return (
              <li key={day}>
                {dayOf(day)}:{" "}
                {of.map((r) => `${r.distance_mm} mm ${r.irradiance_mw_cm2.toFixed(0)}`).join(", ")}{" "}
                (
                {[
                  ...new Set(of.map((r) => [r.source, r.taken_by].filter(Boolean).join(", "))),
                ].join("; ")}
                )
              </li>
            );
          })}
        </Box>
      </Folded>
    </Box>
  );
}
