import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import { useState } from "react";
import type { Problem } from "../api/client";
import { Choice } from "../shell/Choice";
import { Labelled } from "../shell/Labelled";
import { numberIn } from "../shell/numbers";
import { PickCsv, Problems } from "../shell/PickCsv";
import { Refused } from "../shell/Refused";
import { saidBy } from "../shell/said";
import { numerals, paper } from "../theme/tokens";
import { type Lamp, type Taken, useKeepReadings, useReadFile, useSample } from "./queries";
import { dayOf } from "../session/time";

type Way = "radiometer" | "entered" | "file";
const BY_HAND: { value: Way; name: string }[] = [
  { value: "entered", name: "type" },
  { value: "file", name: "CSV file" },
];

/** Readings on their way: taken one by one, seen together, then kept. */
export function TakeReadings({ lamp }: { lamp: Lamp }) {
  const ways = lamp.radiometer
    ? [{ value: "radiometer" as const, name: "radiometer" }, ...BY_HAND]
    : BY_HAND;
  const [way, setWay] = useState<Way>(lamp.radiometer ? "radiometer" : "entered");
  const [taken, setTaken] = useState<Taken[]>([]);
  const [problems, setProblems] = useState<Problem[]>([]);
  const keep = useKeepReadings(lamp.id);
  const Way = { radiometer: Radiometer, entered: Entered, file: File }[way];

  function start(next: Way) {
    setWay(next);
    setTaken([]);
    setProblems([]);
    keep.reset();
  }

  return (
    <Box component="section" aria-label="Take readings" className="no-print">
      <Box sx={{ display: "flex", gap: 2, alignItems: "center", flexWrap: "wrap", mb: 1 }}>
        <Box component="h2" sx={{ m: 0, fontSize: 18 }}>
          Take readings
        </Box>
        <Choice label="How readings are taken" value={way} options={ways} onChange={start} />
      </Box>
      <Way
        lamp={lamp}
        onTake={(more) => setTaken((before) => [...before, ...more])}
        onProblems={setProblems}
      />
      <Problems problems={problems} />
      {taken.length > 0 && (
        <Box sx={{ mt: 1, p: 1, bgcolor: paper.sheet, border: `1.5px dashed ${paper.verdigris}` }}>
          <Box
            component="ol"
            aria-label="Readings not kept yet"
            sx={{ m: 0, p: 0, listStyle: "none", ...numerals }}
          >
            {taken.map((r, i) => (
              <li key={`${r.distance_mm} ${r.irradiance_mw_cm2} ${i}`}>
                {r.distance_mm} mm: <strong>{r.irradiance_mw_cm2.toFixed(0)}</strong> mW/cm²
                {r.taken_on ? `, ${dayOf(r.taken_on)}` : ""}
              </li>
            ))}
          </Box>
          <Box sx={{ display: "flex", gap: 1, mt: 1 }}>
            <Button
              variant="contained"
              disabled={keep.isPending}
              onClick={() =>
                keep.mutate({ source: way, readings: taken }, { onSuccess: () => start(way) })
              }
            >
              Keep {taken.length === 1 ? "this reading" : `these ${taken.length} readings`}
            </Button>
            <Button onClick={() => start(way)}>Drop them</Button>
          </Box>
        </Box>
      )}
      <Refused error={keep.error} />
    </Box>
  );
}

interface WayProps {
  lamp: Lamp;
  onTake: (more: Taken[]) => void;
  onProblems: (problems: Problem[]) => void;
}

const TIPS = [
  { value: "clean", name: "clean" },
  { value: "dirty", name: "dirty" },
  { value: "chipped", name: "chipped" },
] as const;
const BATTERIES = [
  { value: "0", name: "new" },
  { value: "36", name: "3 years" },
  { value: "96", name: "8 years" },
] as const;
const DISTANCES_MM = [0, 2, 4, 6, 8];

function Radiometer({ lamp, onTake, onProblems }: WayProps) {
  const sample = useSample(lamp.id);
  const [tip, setTip] = useState<(typeof TIPS)[number]["value"]>("clean");
  const [battery, setBattery] = useState<(typeof BATTERIES)[number]["value"]>("0");

  async function read(distance_mm: number) {
    onProblems([]);
    const got = await sample.mutateAsync({ distance_mm, tip, battery_months: Number(battery) });
    const { irradiance_mw_cm2, is_steady, spread_mw_cm2 } = got;
    if (is_steady) onTake([{ distance_mm, irradiance_mw_cm2: Math.round(irradiance_mw_cm2) }]);
    else
      onProblems([
        {
          path: `${distance_mm} mm`,
          got: `a spread of ${spread_mw_cm2.toFixed(0)} mW/cm²`,
          allowed: "a steady reading: seat the tip and measure again",
        },
      ]);
  }

  return (
    <>
      <Box sx={{ fontSize: 14, color: "text.secondary" }}>
        Simulated readings; no light turns on. It measures a curing light with
      </Box>
      <Box sx={{ display: "flex", gap: 2, flexWrap: "wrap", alignItems: "center", my: 0.5 }}>
        <Setting name="tip">
          <Choice
            label="Tip of the curing light"
            value={tip}
            options={[...TIPS]}
            onChange={setTip}
          />
        </Setting>
        <Setting name="battery">
          <Choice
            label="Age of the battery"
            value={battery}
            options={[...BATTERIES]}
            onChange={setBattery}
          />
        </Setting>
      </Box>
      <Box sx={{ display: "flex", gap: 1, flexWrap: "wrap", alignItems: "center" }}>
        read at
        {DISTANCES_MM.map((mm) => (
          <Button
            key={mm}
            variant="outlined"
            disabled={sample.isPending}
            aria-label={`Read at ${mm} mm`}
            sx={{ minHeight: 56, minWidth: 88 }}
            onClick={() => void read(mm)}
          >
            {mm} mm
          </Button>
        ))}
      </Box>
      {sample.isError && <Box role="alert">{saidBy(sample.error)}</Box>}
    </>
  );
}

function Setting({ name, children }: { name: string; children: React.ReactNode }) {
  return (
    <Box sx={{ display: "flex", gap: 1, alignItems: "center" }}>
      {name} {children}
    </Box>
  );
}

function Entered({ onTake }: WayProps) {
  const [distance, setDistance] = useState("");
  const [irradiance, setIrradiance] = useState("");
  const reading = { distance_mm: numberIn(distance), irradiance_mw_cm2: numberIn(irradiance) };
  const isGood =
    reading.distance_mm >= 0 && reading.distance_mm <= 30 && reading.irradiance_mw_cm2 > 0;
  return (
    <Box
      component="form"
      sx={{ display: "flex", gap: 2, alignItems: "end", flexWrap: "wrap" }}
      onSubmit={(event) => {
        event.preventDefault();
        if (!isGood) return;
        onTake([reading]);
        setDistance("");
        setIrradiance("");
      }}
    >
      <Labelled name="distance, mm" value={distance} onChange={setDistance} />
      <Labelled name="reading, mW/cm²" value={irradiance} onChange={setIrradiance} />
      <Button type="submit" variant="outlined" disabled={!isGood} sx={{ minHeight: 40 }}>
        Add
      </Button>
    </Box>
  );
}

function File({ onTake, onProblems }: WayProps) {
  const file = useReadFile();

  async function read(text: string) {
    const { readings, problems } = await file.mutateAsync(text);
    onTake(readings);
    onProblems(problems);
  }

  return (
    <>
      <Box sx={{ fontSize: 14, color: "text.secondary", mb: 0.5 }}>
        Columns <code>distance_mm</code>, <code>irradiance_mw_cm2</code> and, if you like,{" "}
        <code>taken_at</code>.
      </Box>
      <PickCsv label="File of readings" onText={read} onProblems={onProblems} />
    </>
  );
}
