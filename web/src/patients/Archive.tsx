import Alert from "@mui/material/Alert";
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Dialog from "@mui/material/Dialog";
import DialogActions from "@mui/material/DialogActions";
import DialogContent from "@mui/material/DialogContent";
import DialogTitle from "@mui/material/DialogTitle";
import { type FormEvent, useState } from "react";
import { Field, otherwise } from "../shell/Field";
import { type Patient, useArchive } from "./queries";

/** Takes a patient out of the way for a reason, or back. Nobody is deleted. */
export function Archive({ patient, onDone }: { patient: Patient; onDone: () => void }) {
  const archive = useArchive(patient.id);
  const [reason, setReason] = useState("");
  const isBack = patient.archived_for !== "";

  function submit(event: FormEvent) {
    event.preventDefault();
    archive.mutate(isBack ? "" : reason, { onSuccess: onDone });
  }

  const others = otherwise(archive.error, ["reason"]);
  return (
    <Dialog open onClose={onDone} maxWidth="xs" fullWidth>
      <Box component="form" onSubmit={submit} noValidate>
        <DialogTitle>
          {isBack ? `Take ${patient.full_name} back?` : `Archive ${patient.full_name}`}
        </DialogTitle>
        <DialogContent sx={{ display: "grid", gap: 2, pt: "8px !important" }}>
          {!isBack && (
            <>
              <Box>Records stay as they are. Nobody is deleted.</Box>
              <Field
                label="Reason"
                autoFocus
                path="reason"
                value={reason}
                onChange={setReason}
                refused={archive.error}
              />
            </>
          )}
          {others && <Alert severity="error">{others}</Alert>}
        </DialogContent>
        <DialogActions>
          <Button onClick={onDone}>Cancel</Button>
          <Button type="submit" variant="contained" disabled={archive.isPending}>
            {isBack ? "Take back" : "Archive"}
          </Button>
        </DialogActions>
      </Box>
    </Dialog>
  );
}
