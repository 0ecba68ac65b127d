import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Checkbox from "@mui/material/Checkbox";
import FormControlLabel from "@mui/material/FormControlLabel";
import { useState } from "react";
import { ApiError } from "../api/client";
import { Field, otherwise } from "../shell/Field";
import { FormDialog } from "../shell/FormDialog";
import { type Patient, type PatientTold, useAddPatient, useChangePatient } from "./queries";

const ALLERGIES = [
  "latex",
  "resin",
  "mercury",
  "chlorhexidine",
  "anesthetic",
  "sulfite",
  "metals",
  "eugenol",
  "other",
];
const FLAGS: Record<string, string> = {
  anticoagulants: "anticoagulants",
  endocarditis_risk: "endocarditis risk",
  pacemaker: "pacemaker",
  heart_disease: "heart disease",
  pregnant: "pregnant",
  planning_pregnancy: "planning pregnancy",
  breast_feeding: "breast-feeding",
  light_sensitizing: "light-sensitizing medicine",
  beta_blocker_or_tricyclic: "beta blocker or tricyclic",
  methemoglobinemia: "methemoglobinemia",
  neurological_disease: "neurological disease",
  kidney_impairment: "kidney impairment",
};
const PATHS = ["full_name", "born_on", "chart_number", "weight_kg"];

interface Props {
  patient?: Patient;
  onDone: () => void;
  onAdded?: (id: number) => void;
}

/** Adds a patient, or changes one. */
export function PatientForm({ patient, onDone, onAdded }: Props) {
  const add = useAddPatient();
  const change = useChangePatient(patient?.id ?? 0);
  const [told, setTold] = useState({
    full_name: patient?.full_name ?? "",
    born_on: patient?.born_on ?? "",
    chart_number: patient?.chart_number ?? "",
    weight_kg: patient?.weight_kg?.toString() ?? "",
    alert_text: patient?.alert_text ?? "",
  });
  const [flags, setFlags] = useState<Record<string, boolean>>(patient?.flags ?? {});
  const [allergies, setAllergies] = useState(new Set(patient?.allergies.map((one) => one.to)));
  const error = patient ? change.error : add.error;
  const isTwice = error instanceof ApiError && error.code === "patient.twice";
  const of = (name: keyof typeof told) => ({
    path: name,
    value: told[name],
    onChange: (value: string) => setTold((before) => ({ ...before, [name]: value })),
    refused: error,
  });

  function send(isAnother: boolean) {
    const known = new Map(patient?.allergies.map((one) => [one.to, one]));
    const body = {
      ...flags,
      full_name: told.full_name,
      chart_number: told.chart_number,
      alert_text: told.alert_text,
      weight_kg: told.weight_kg.trim() === "" ? null : Number(told.weight_kg.replace(",", ".")),
      allergies: [...allergies].map((to) => known.get(to) ?? { to, substance: "" }),
    } satisfies PatientTold;
    if (patient)
      change.mutate(
        { ...body, ...(told.born_on ? { born_on: told.born_on } : {}) },
        { onSuccess: onDone },
      );
    else
      add.mutate(
        { ...body, born_on: told.born_on, is_another: isAnother },
        { onSuccess: (made) => (onAdded ? onAdded(made.id) : onDone()) },
      );
  }

  return (
    <FormDialog
      title={patient ? "Change the patient" : "Add a patient"}
      submitName={patient ? "Keep" : "Add"}
      isPending={add.isPending || change.isPending}
      said={otherwise(error, PATHS)}
      isAsked={isTwice}
      others={
        isTwice && (
          <Button variant="outlined" onClick={() => send(true)}>
            It is another person
          </Button>
        )
      }
      onSubmit={() => send(false)}
      onDone={onDone}
    >
      <Field label="Name" autoFocus {...of("full_name")} />
      <Box sx={{ display: "grid", gap: 2, gridTemplateColumns: { sm: "1fr 1fr 1fr" } }}>
        <Field label="Born" type="date" {...of("born_on")} />
        <Field label="Chart number" {...of("chart_number")} />
        <Field label="Weight, kg" {...of("weight_kg")} />
      </Box>
      <Ticks
        name="Allergies"
        options={ALLERGIES.map((to) => [to, to])}
        isOn={(to) => allergies.has(to)}
        onTick={(to, on) => {
          const now = new Set(allergies);
          if (on) now.add(to);
          else now.delete(to);
          setAllergies(now);
        }}
      />
      <Ticks
        name="History"
        options={Object.entries(FLAGS)}
        isOn={(flag) => flags[flag] ?? false}
        onTick={(flag, on) => setFlags({ ...flags, [flag]: on })}
      />
      <Field label="What else there is to know" multiline {...of("alert_text")} />
    </FormDialog>
  );
}

interface TicksProps {
  name: string;
  options: [string, string][];
  isOn: (value: string) => boolean;
  onTick: (value: string, on: boolean) => void;
}

function Ticks({ name, options, isOn, onTick }: TicksProps) {
  return (
    <Box component="fieldset" sx={{ border: 0, m: 0, p: 0 }}>
      <Box component="legend" sx={{ color: "text.secondary", fontSize: 14, p: 0 }}>
        {name}
      </Box>
      <Box sx={{ display: "grid", gridTemplateColumns: { xs: "1fr 1fr", sm: "1fr 1fr 1fr" } }}>
        {options.map(([value, said]) => (
          <FormControlLabel
            key={value}
            control={
              <Checkbox
                checked={isOn(value)}
                onChange={(event) => onTick(value, event.target.checked)}
              />
            }
            label={said}
          />
        ))}
      </Box>
    </Box>
  );
}
