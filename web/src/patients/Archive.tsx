import Box from "@mui/material/Box";
import { useState } from "react";
import { Field, otherwise } from "../shell/Field";
import { FormDialog } from "../shell/FormDialog";
import { type Patient, useArchive } from "./queries";

/** Takes a patient out of the way for a reason, or back. Nobody is deleted. */
export function Archive({ patient, onDone }: { patient: Patient; onDone: () => void }) {
  const archive = useArchive(patient.id);
  const [reason, setReason] = useState("");
  const isBack = patient.archived_for !== "";
  return (
    <FormDialog
      title={isBack ? `Take ${patient.full_name} back?` : `Archive ${patient.full_name}`}
      submitName={isBack ? "Take back" : "Archive"}
      isPending={archive.isPending}
      said={otherwise(archive.error, ["reason"])}
      width="xs"
      onSubmit={() => archive.mutate(isBack ? "" : reason, { onSuccess: onDone })}
      onDone={onDone}
    >
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
    </FormDialog>
  );
}
