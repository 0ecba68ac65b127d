import Alert from "@mui/material/Alert";
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Dialog from "@mui/material/Dialog";
import DialogActions from "@mui/material/DialogActions";
import DialogContent from "@mui/material/DialogContent";
import DialogTitle from "@mui/material/DialogTitle";
import { useState } from "react";
import { Link } from "react-router";
import { ApiError, type Schemas } from "../api/client";
import { useChangeVisit } from "../patients/queries";
import { type Slot, WhenWhere } from "../patients/WhenWhere";
import { useSession } from "../session/queries";
import { wallOf } from "../session/time";
import { Field, otherwise } from "../shell/Field";

export type Booked = Schemas["BookedVisit"];

const STATUS: Record<string, string> = {
  booked: "booked",
  arrived: "arrived",
  in_the_chair: "in the chair",
  done: "done",
  canceled: "canceled",
  did_not_come: "did not come",
};

/** Whether a visit was called off. */
export function isGone(visit: Booked): boolean {
  return visit.status === "canceled" || visit.status === "did_not_come";
}

/** Opens a visit: where the patient is, another time or chair, or none. */
export function VisitButton({ visit }: { visit: Booked }) {
  const [isOpen, setOpen] = useState(false);
  return (
    <>
      <Button
        size="small"
        sx={{ px: 0.5, minWidth: 0, textAlign: "left" }}
        aria-label={`Visit of ${visit.patient}: ${STATUS[visit.status] ?? visit.status}`}
        onClick={() => setOpen(true)}
      >
        {STATUS[visit.status] ?? visit.status}
      </Button>
      {isOpen && <VisitDialog visit={visit} onDone={() => setOpen(false)} />}
    </>
  );
}

function VisitDialog({ visit, onDone }: { visit: Booked; onDone: () => void }) {
  const user = useSession().data?.user;
  const change = useChangeVisit(visit.id);
  const wall = wallOf(visit.starts_at, user?.zone ?? "UTC");
  const [slot, setSlot] = useState<Slot>({
    ...wall,
    chair: visit.chair,
    dentist: String(visit.dentist_id),
  });
  const [reason, setReason] = useState("");
  const send = (body: Partial<Schemas["ChangeVisitIn"]>) =>
    change.mutate({ reason, ...body }, { onSuccess: onDone });
  const canMove = visit.status === "booked" || visit.status === "arrived";
  const isTaken = change.error instanceof ApiError && change.error.code === "visit.taken";
  const others = otherwise(change.error, ["starts_at", "reason"]);
  return (
    <Dialog open onClose={onDone} maxWidth="sm" fullWidth>
      <DialogTitle>
        <Box component={Link} to={`/patients/${visit.patient_id}`} sx={{ color: "inherit" }}>
          {visit.patient}
        </Box>
        , {STATUS[visit.status]}
      </DialogTitle>
      <DialogContent sx={{ display: "grid", gap: 2, pt: "8px !important" }}>
        <Box sx={{ display: "flex", gap: 1, flexWrap: "wrap" }}>
          {visit.status === "booked" && (
            <Button variant="contained" onClick={() => send({ status: "arrived" })}>
              Arrived
            </Button>
          )}
          {(visit.status === "arrived" || isGone(visit)) && (
            <Button variant="outlined" onClick={() => send({ status: "booked" })}>
              Booked again
            </Button>
          )}
        </Box>
        {canMove && (
          <>
            <WhenWhere slot={slot} onChange={setSlot} refused={change.error} />
            <Field
              label="Reason"
              path="reason"
              helperText="Needed to cancel, and to book a chair twice."
              value={reason}
              onChange={setReason}
              refused={change.error}
            />
          </>
        )}
        {others && <Alert severity={isTaken ? "warning" : "error"}>{others}</Alert>}
      </DialogContent>
      <DialogActions sx={{ flexWrap: "wrap" }}>
        <Button onClick={onDone}>Close</Button>
        {canMove && (
          <>
            <Button onClick={() => send({ status: "canceled" })}>Cancel the visit</Button>
            {visit.status === "booked" && (
              <Button onClick={() => send({ status: "did_not_come" })}>Did not come</Button>
            )}
            <Button
              variant="contained"
              disabled={change.isPending}
              onClick={() =>
                send({
                  starts_at: `${slot.day}T${slot.time}`,
                  chair: slot.chair,
                  dentist_id: Number(slot.dentist),
                })
              }
            >
              Move
            </Button>
          </>
        )}
      </DialogActions>
    </Dialog>
  );
}
