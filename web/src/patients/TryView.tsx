import Autocomplete from "@mui/material/Autocomplete";
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import TextField from "@mui/material/TextField";
import { useDeferredValue, useState } from "react";
import { Link, useNavigate } from "react-router";
import type { Schemas } from "../api/client";
import { dayOf } from "../session/time";
import { FormDialog } from "../shell/FormDialog";
import { Page } from "../shell/Page";
import { Trouble } from "../shell/Trouble";
import { Waiting } from "../shell/Waiting";
import { saidBy } from "../shell/said";
import { Mouth } from "./Mouth";
import { NewRestoration } from "./NewRestoration";
import { RestorationRow } from "./RestorationRow";
import { type Trial, useAttach, usePatients, useTeeth, useTrials } from "./queries";

/** A cavity without a patient, to learn from or to ask; it may be attached to one later. */
export default function TryView() {
  const teeth = useTeeth();
  const [picked, setPicked] = useState<string | null>(null);
  if (teeth.isPending) return <Waiting />;
  if (teeth.isError) return <Trouble error={teeth.error} again={() => void teeth.refetch()} />;
  const tooth = teeth.data.find((one) => one.code === picked);
  return (
    <Page title="Try a cavity" beside="without a patient; only you see it">
      <Box
        sx={{
          display: "grid",
          gap: 3,
          gridTemplateColumns: { xs: "minmax(0, 1fr)", md: "minmax(0, 1fr) 400px" },
        }}
      >
        <Box>
          <Mouth
            first="permanent"
            teeth={teeth.data}
            placed={[]}
            picked={picked}
            onPick={setPicked}
          />
        </Box>
        <Box>
          {tooth ? (
            <NewRestoration key={tooth.code} patientId={null} tooth={tooth} placed={[]} />
          ) : (
            <Trials />
          )}
          {tooth && (
            <Button sx={{ mt: 1 }} onClick={() => setPicked(null)}>
              Back to all that you tried
            </Button>
          )}
        </Box>
      </Box>
    </Page>
  );
}

function Trials() {
  const trials = useTrials();
  const [attached, setAttached] = useState<Trial | null>(null);
  if (trials.isPending) return <Waiting />;
  if (trials.isError) return <Trouble error={trials.error} again={() => void trials.refetch()} />;
  return (
    <Box component="section" aria-label="Tried">
      <Box component="h2" sx={{ m: 0, mb: 0.5, fontSize: 18 }}>
        Tried so far
      </Box>
      {trials.data.length === 0 && <Box>None yet. Tap a tooth.</Box>}
      {trials.data.map((one) => (
        <RestorationRow
          key={one.id}
          one={one}
          actions={
            <>
              <Button size="small" onClick={() => setAttached(one)}>
                Attach
              </Button>
              <Button component={Link} to={`/bench/${one.id}`} size="small" variant="outlined">
                Bench
              </Button>
            </>
          }
        >
          {one.material}, {one.reason}
        </RestorationRow>
      ))}
      {attached && <Attach trial={attached} onDone={() => setAttached(null)} />}
    </Box>
  );
}

/** Makes a trial a restoration of a patient's. */
function Attach({ trial, onDone }: { trial: Trial; onDone: () => void }) {
  const attach = useAttach(trial.id);
  const navigate = useNavigate();
  const [text, setText] = useState("");
  const [patient, setPatient] = useState<Schemas["PatientRow"] | null>(null);
  const found = usePatients(useDeferredValue(text), 1, false).data?.rows ?? [];
  return (
    <FormDialog
      title={`Attach ${trial.tooth} ${trial.surfaces} to a patient`}
      submitName="Attach"
      isPending={!patient || attach.isPending}
      said={attach.error ? saidBy(attach.error) : ""}
      onSubmit={() =>
        patient &&
        attach.mutate(patient.id, { onSuccess: () => void navigate(`/patients/${patient.id}`) })
      }
      onDone={onDone}
    >
      <Autocomplete
        options={found}
        value={patient}
        filterOptions={(rows) => rows}
        getOptionLabel={(row) => `${row.full_name}, ${dayOf(row.born_on)}`}
        isOptionEqualToValue={(a, b) => a.id === b.id}
        onChange={(_, row) => setPatient(row)}
        onInputChange={(_, told, why) => why === "input" && setText(told)}
        renderInput={(params) => (
          <TextField {...params} size="small" autoFocus label="Name, chart number or birth" />
        )}
      />
    </FormDialog>
  );
}
