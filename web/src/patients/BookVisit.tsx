import Alert from "@mui/material/Alert";
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Checkbox from "@mui/material/Checkbox";
import Dialog from "@mui/material/Dialog";
import DialogActions from "@mui/material/DialogActions";
import DialogContent from "@mui/material/DialogContent";
import DialogTitle from "@mui/material/DialogTitle";
import FormControlLabel from "@mui/material/FormControlLabel";
import MenuItem from "@mui/material/MenuItem";
import TextField from "@mui/material/TextField";
import { type FormEvent, useState } from "react";
import { ApiError } from "../api/client";
import { useSession } from "../session/queries";
import { todayIn } from "../session/time";
import { Field, otherwise } from "../shell/Field";
import { type Patient, useBook, useColleagues } from "./queries";

/** Books a visit of a patient, for restorations that wait for one. */
export function BookVisit({ patient, onDone }: { patient: Patient; onDone: () => void }) {
  const user = useSession().data?.user;
  const colleagues = useColleagues().data ?? [];
  const book = useBook();
  const open = patient.restorations.filter((one) => one.status === "open" && !one.visit_id);
  const [told, setTold] = useState({
    day: todayIn(user?.zone ?? "UTC"),
    time: "09:00",
    chair: user?.chairs[0] ?? "",
    dentist: "",
    reason: "",
  });
  const [picked, setPicked] = useState(new Set(open.map((one) => one.id)));
  const isTaken = book.error instanceof ApiError && book.error.code === "visit.taken";
  const dentist =
    told.dentist ||
    String(
      colleagues.find((one) => one.full_name === user?.full_name)?.id ?? colleagues[0]?.id ?? "",
    );
  const set = (name: keyof typeof told) => (value: string) =>
    setTold((before) => ({ ...before, [name]: value }));

  function submit(event: FormEvent) {
    event.preventDefault();
    book.mutate(
      {
        patient_id: patient.id,
        starts_at: `${told.day}T${told.time}`,
        chair: told.chair,
        dentist_id: Number(dentist),
        restoration_ids: [...picked].sort((a, b) => a - b),
        reason: told.reason,
      },
      { onSuccess: onDone },
    );
  }

  const others = otherwise(book.error, ["starts_at", "chair"]);
  return (
    <Dialog open onClose={onDone} maxWidth="sm" fullWidth>
      <Box component="form" onSubmit={submit} noValidate>
        <DialogTitle>Book a visit for {patient.full_name}</DialogTitle>
        <DialogContent sx={{ display: "grid", gap: 2, pt: "8px !important" }}>
          <Box sx={{ display: "grid", gap: 2, gridTemplateColumns: { sm: "1fr 1fr" } }}>
            <Field
              label="Day"
              type="date"
              path="starts_at"
              value={told.day}
              onChange={set("day")}
              refused={book.error}
            />
            <Field label="Time" type="time" value={told.time} onChange={set("time")} />
            <TextField
              select
              size="small"
              label="Chair"
              value={told.chair}
              onChange={(event) => set("chair")(event.target.value)}
            >
              {user?.chairs.map((chair) => (
                <MenuItem key={chair} value={chair}>
                  {chair}
                </MenuItem>
              ))}
            </TextField>
            <TextField
              select
              size="small"
              label="Who treats"
              value={dentist}
              onChange={(event) => set("dentist")(event.target.value)}
            >
              {colleagues.map((one) => (
                <MenuItem key={one.id} value={String(one.id)}>
                  {one.full_name}
                </MenuItem>
              ))}
            </TextField>
          </Box>
          {open.map((one) => (
            <FormControlLabel
              key={one.id}
              control={
                <Checkbox
                  checked={picked.has(one.id)}
                  onChange={(event) => {
                    const now = new Set(picked);
                    if (event.target.checked) now.add(one.id);
                    else now.delete(one.id);
                    setPicked(now);
                  }}
                />
              }
              label={`${one.tooth} ${one.surfaces}, ${one.material}`}
            />
          ))}
          {others && <Alert severity={isTaken ? "warning" : "error"}>{others}</Alert>}
          {isTaken && (
            <Field label="Why both at one time" value={told.reason} onChange={set("reason")} />
          )}
        </DialogContent>
        <DialogActions>
          <Button onClick={onDone}>Cancel</Button>
          <Button type="submit" variant="contained" disabled={book.isPending}>
            Book
          </Button>
        </DialogActions>
      </Box>
    </Dialog>
  );
}
