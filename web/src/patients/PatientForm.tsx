import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Checkbox from "@mui/material/Checkbox";
import FormControlLabel from "@mui/material/FormControlLabel";
import { ApiError } from "../api/client";
import { DayField } from "../shell/DayField";
import { Field, otherwise } from "../shell/Field";
import { FormDialog } from "../shell/FormDialog";
import { useKept } from "../shell/kept";
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
  const [told, setTold, forget] = useKept(patient ? `patient ${patient.id}` : "new patient", {
    full_name: patient?.full_name ?? "",
    born_on: patient?.born_on ?? "",
    chart_number: patient?.chart_number ?? "",
    weight_kg: patient?.weight_kg?.toString() ?? "",
    alert_text: patient?.alert_text ?? "",
    flags: (patient?.flags ?? {}) as Record<string, boolean>,
    // To what the patient is allergic, and to which substance of it.
    allergies: Object.fromEntries(
      (patient?.allergies ?? []).map((one): [string, string] => [one.to, one.substance]),
    ),
  });
  const error = patient ? change.error : add.error;
  const isTwice = error instanceof ApiError && error.code === "patient.twice";
  const set = (part: Partial<typeof told>) => setTold((before) => ({ ...before, ...part }));
  const of = (name: "full_name" | "born_on" | "chart_number" | "weight_kg" | "alert_text") => ({
    path: name,
    value: told[name],
    onChange: (value: string) => set({ [name]: value }),
    refused: error,
  });

  function done(then: () => void) {
    forget();
    then();
  }

  function send(isAnother: boolean) {
    const body = {
      ...told.flags,
      full_name: told.full_name,
      chart_number: told.chart_number,
      alert_text: told.alert_text,
      weight_kg: told.weight_kg.trim() === "" ? null : Number(told.weight_kg.replace(",", ".")),
      allergies: Object.entries(told.allergies).map(([to, substance]) => ({ to, substance })),
    } satisfies PatientTold;
    if (patient)
      change.mutate({ ...body, born_on: told.born_on }, { onSuccess: () => done(onDone) });
    else
      add.mutate(
        { ...body, born_on: told.born_on, is_another: isAnother },
        { onSuccess: (made) => done(() => (onAdded ? onAdded(made.id) : onDone())) },
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
      onForget={forget}
    >
      <Field label="Name" autoFocus {...of("full_name")} />
      <Box sx={{ display: "grid", gap: 2, gridTemplateColumns: { sm: "1fr 1fr 1fr" } }}>
        <DayField label="Born" openTo="year" {...of("born_on")} />
        <Field label="Chart number" {...of("chart_number")} />
        <Field label="Weight, kg" {...of("weight_kg")} />
      </Box>
      <Ticks
        name="Allergies"
        options={ALLERGIES.map((to) => [to, to])}
        isOn={(to) => to in told.allergies}
        onTick={(to, on) => {
          const { [to]: before = "", ...others } = told.allergies;
          set({ allergies: on ? { ...others, [to]: before } : others });
        }}
      />
      {Object.entries(told.allergies).map(([to, substance]) => (
        <Field
          key={to}
          label={to === "other" ? "Other allergy: to what" : `${to}: substance, if known`}
          value={substance}
          onChange={(text) => set({ allergies: { ...told.allergies, [to]: text } })}
        />
      ))}
      <Ticks
        name="History"
        options={Object.entries(FLAGS)}
        isOn={(flag) => told.flags[flag] ?? false}
        onTick={(flag, on) => set({ flags: { ...told.flags, [flag]: on } })}
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
    <Box component="fieldset" sx={{ border: 0, m: 0, p: 0, minWidth: 0 }}>
      <Box component="legend" sx={{ color: "text.secondary", fontSize: 14, p: 0 }}>
        {name}
      </Box>
      <Box
        sx={{
          display: "grid",
          gridTemplateColumns: { xs: "repeat(2, minmax(0, 1fr))", sm: "repeat(3, minmax(0, 1fr))" },
        }}
      >
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
