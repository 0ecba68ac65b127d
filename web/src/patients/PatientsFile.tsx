import Alert from "@mui/material/Alert";
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Dialog from "@mui/material/Dialog";
import DialogActions from "@mui/material/DialogActions";
import DialogContent from "@mui/material/DialogContent";
import DialogTitle from "@mui/material/DialogTitle";
import { useState } from "react";
import type { Problem, Schemas } from "../api/client";
import { dayOf } from "../session/time";
import { PickCsv, Problems } from "../shell/PickCsv";
import { saidBy } from "../shell/said";
import { useKeepPatients, useReadPatients } from "./queries";

interface Found {
  text: string;
  told: Schemas["PatientsFileOut"];
}

/** Patients as a file: out; in again all or none, seen before anything is kept. */
export function PatientsFile({ onDone }: { onDone: () => void }) {
  const read = useReadPatients();
  const keep = useKeepPatients();
  const [found, setFound] = useState<Found | null>(null);
  const [problems, setProblems] = useState<Problem[]>([]);

  async function take(text: string) {
    setFound(null);
    const told = await read.mutateAsync(text);
    setProblems(told.problems);
    setFound({ text, told });
  }

  const { told } = found ?? {};
  const rest = told ? told.count - told.rows.length : 0;
  return (
    <Dialog open onClose={onDone} maxWidth="sm" fullWidth>
      <DialogTitle>Patients as a file</DialogTitle>
      <DialogContent sx={{ display: "grid", gap: 2 }}>
        <Button
          component="a"
          href="/api/patients-file"
          download
          variant="outlined"
          sx={{ justifySelf: "start" }}
        >
          Save patients as CSV
        </Button>
        <PickCsv label="Read patients from a file" onText={take} onProblems={setProblems} />
        <Box sx={{ color: "text.secondary", fontSize: 14 }}>
          UTF-8, commas between the columns; full_name and born_on at least, days as 1984-02-29.
        </Box>
        <Problems problems={problems} />
        {told && (
          <Box>
            {problems.length > 0 && (
              <Alert severity="warning">
                Mend these lines and read the file again: all its patients are added, or none.
              </Alert>
            )}
            <Box component="ul" aria-label="Patients of the file" sx={{ m: 0, mt: 1, pl: 2.5 }}>
              {told.rows.map((row, i) => (
                <li key={i}>
                  <strong>{row.full_name}</strong>, {dayOf(row.born_on)}
                  {row.chart_number && `, chart ${row.chart_number}`}
                </li>
              ))}
              {rest > 0 && <li>and {rest} more</li>}
            </Box>
          </Box>
        )}
        {keep.isError && <Alert severity="error">{saidBy(keep.error)}</Alert>}
      </DialogContent>
      <DialogActions>
        <Button onClick={onDone}>Close</Button>
        {found && (
          <Button
            variant="contained"
            disabled={problems.length > 0 || found.told.count === 0 || keep.isPending}
            onClick={() => keep.mutate(found.text, { onSuccess: onDone })}
          >
            Add {found.told.count === 1 ? "this patient" : `these ${found.told.count} patients`}
          </Button>
        )}
      </DialogActions>
    </Dialog>
  );
}
