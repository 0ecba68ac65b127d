import Checkbox from "@mui/material/Checkbox";
import FormControlLabel from "@mui/material/FormControlLabel";
import { useState } from "react";
import { ApiError } from "../api/client";
import { useSession } from "../session/queries";
import { nextQuarter } from "../session/time";
import { Field, otherwise } from "../shell/Field";
import { FormDialog } from "../shell/FormDialog";
import { useKept } from "../shell/kept";
import { type Patient, useBook, useColleagues } from "./queries";
import { type Slot, WhenWhere } from "./WhenWhere";

/** Books a visit of a patient, for restorations that wait for one. */
export function BookVisit({ patient, onDone }: { patient: Patient; onDone: () => void }) {
  const user = useSession().data?.user;
  const colleagues = useColleagues().data ?? [];
  const book = useBook();
  const open = patient.restorations.filter((one) => one.status === "open" && !one.visit_id);
  const [slot, setSlot, forget] = useKept<Slot>(`visit of ${patient.id}`, {
    ...nextQuarter(user?.zone ?? "UTC"),
    chair: user?.chairs[0] ?? "",
    dentist: "",
  });
  const [reason, setReason] = useState("");
  // All that waits is booked but for what is left out, of what is known only later too.
  const [left, setLeft] = useState(new Set<number>());
  const isTaken = book.error instanceof ApiError && book.error.code === "visit.taken";
  const own = colleagues.find((one) => one.full_name === user?.full_name) ?? colleagues[0];
  const dentist = slot.dentist || String(own?.id ?? "");

  function tick(id: number, on: boolean) {
    const now = new Set(left);
    if (on) now.delete(id);
    else now.add(id);
    setLeft(now);
  }

  const send = () =>
    book.mutate(
      {
        patient_id: patient.id,
        starts_at: `${slot.day}T${slot.time}`,
        chair: slot.chair,
        dentist_id: Number(dentist),
        restoration_ids: open
          .map((one) => one.id)
          .filter((id) => !left.has(id))
          .sort((a, b) => a - b),
        reason,
      },
      {
        onSuccess: () => {
          forget();
          onDone();
        },
      },
    );

  return (
    <FormDialog
      title={`Book a visit for ${patient.full_name}`}
      submitName="Book"
      isPending={book.isPending}
      said={otherwise(book.error, ["starts_at"])}
      isAsked={isTaken}
      onSubmit={send}
      onDone={onDone}
      onForget={forget}
    >
      <WhenWhere slot={{ ...slot, dentist }} onChange={setSlot} refused={book.error} />
      {open.map((one) => (
        <FormControlLabel
          key={one.id}
          control={
            <Checkbox
              checked={!left.has(one.id)}
              onChange={(event) => tick(one.id, event.target.checked)}
            />
          }
          label={`${one.tooth} ${one.surfaces}, ${one.material}`}
        />
      ))}
      {isTaken && <Field label="Why both at one time" value={reason} onChange={setReason} />}
    </FormDialog>
  );
}
