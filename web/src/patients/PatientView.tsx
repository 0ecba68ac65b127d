import Alert from "@mui/material/Alert";
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Chip from "@mui/material/Chip";
import { useState } from "react";
import { Link, useParams } from "react-router";
import { dayOf, useClock } from "../session/time";
import { Trouble } from "../shell/Trouble";
import { Waiting } from "../shell/Waiting";
import { saidBy } from "../shell/said";
import { paper } from "../theme/tokens";
import { Archive } from "./Archive";
import { BookVisit } from "./BookVisit";
import { Mouth } from "./Mouth";
import { statusOf } from "./MouthChart";
import { NewRestoration } from "./NewRestoration";
import { PatientForm } from "./PatientForm";
import { RestorationRow } from "./RestorationRow";
import { type Patient, useCheckHistory, usePatient, useTeeth } from "./queries";
import { type Tooth, dentitionAt } from "./teeth";

/** A patient: alerts, the mouth chart, everything planned and placed, and what is begun from there. */
export default function PatientView() {
  const id = Number(useParams().patientId);
  const patient = usePatient(id);
  const teeth = useTeeth();
  if (patient.isPending || teeth.isPending) return <Waiting />;
  if (patient.isError)
    return <Trouble error={patient.error} again={() => void patient.refetch()} />;
  if (teeth.isError) return <Trouble error={teeth.error} again={() => void teeth.refetch()} />;
  return <Shown key={id} patient={patient.data} teeth={teeth.data} />;
}

function Shown({ patient, teeth }: { patient: Patient; teeth: Tooth[] }) {
  const [picked, setPicked] = useState<string | null>(null);
  const tooth = teeth.find((one) => one.code === picked);
  return (
    <Box>
      <Header patient={patient} />
      <Box
        sx={{
          display: "grid",
          gridTemplateColumns: { xs: "minmax(0, 1fr)", md: "minmax(0, 1fr) 400px" },
        }}
      >
        <Box sx={{ p: 2 }}>
          <Mouth
            first={dentitionAt(patient.age_years)}
            teeth={teeth}
            placed={patient.restorations}
            picked={picked}
            onPick={setPicked}
          >
            Tap a tooth for a new restoration. Hatched: placed. Dashed: planned.
          </Mouth>
        </Box>
        <Box sx={{ p: 2, bgcolor: paper.sheet, borderLeft: { md: `1px solid ${paper.rule}` } }}>
          {tooth && !patient.archived_for ? (
            <NewRestoration
              key={tooth.code}
              patientId={patient.id}
              tooth={tooth}
              placed={patient.restorations.filter((one) => one.code === tooth.code)}
            />
          ) : (
            <History patient={patient} />
          )}
          {tooth && (
            <Button sx={{ mt: 1 }} onClick={() => setPicked(null)}>
              Back to all that was done
            </Button>
          )}
        </Box>
      </Box>
    </Box>
  );
}

function Header({ patient }: { patient: Patient }) {
  const check = useCheckHistory(patient.id);
  const [open, setOpen] = useState<"change" | "book" | "archive" | null>(null);
  const checked = patient.history_checked_on
    ? `History checked ${patient.is_history_current ? "today" : dayOf(patient.history_checked_on)}${patient.history_checked_by ? `, by ${patient.history_checked_by}` : ""}`
    : "History never checked";
  return (
    <Box
      sx={{
        px: { xs: 2, md: 3 },
        py: 1.5,
        bgcolor: paper.sheet,
        borderBottom: `1px solid ${paper.rule}`,
        display: "flex",
        flexWrap: "wrap",
        alignItems: "center",
        columnGap: 2,
        rowGap: 1,
      }}
    >
      <Box>
        <Box component="h1" sx={{ m: 0, fontSize: 26, lineHeight: 1.15 }}>
          {patient.full_name}
        </Box>
        <Box sx={{ color: "text.secondary" }}>
          {patient.age_years} years, born {dayOf(patient.born_on)}
          {patient.chart_number && ` · chart ${patient.chart_number}`}
        </Box>
      </Box>
      {patient.alerts.map((alert) => (
        <Chip
          key={alert}
          label={alert}
          variant="outlined"
          sx={{ borderColor: paper.brick, color: paper.brick, fontWeight: 700, fontSize: 15 }}
        />
      ))}
      <Box>
        <Box sx={{ color: patient.is_history_current ? paper.verdigris : paper.ochre }}>
          {checked}
        </Box>
        {!patient.is_history_current && (
          <Button size="small" variant="outlined" onClick={() => check.mutate(undefined)}>
            History checked now
          </Button>
        )}
      </Box>
      <Box sx={{ ml: "auto", display: "flex", gap: 1, flexWrap: "wrap" }}>
        <Button onClick={() => setOpen("archive")}>
          {patient.archived_for ? "Take back" : "Archive"}
        </Button>
        <Button variant="outlined" onClick={() => setOpen("change")}>
          Change
        </Button>
        {!patient.archived_for && (
          <Button variant="contained" onClick={() => setOpen("book")}>
            Book a visit
          </Button>
        )}
      </Box>
      {patient.archived_for && (
        <Alert severity="warning" sx={{ width: "100%" }}>
          Archived: {patient.archived_for}
        </Alert>
      )}
      {check.isError && <Alert severity="error">{saidBy(check.error)}</Alert>}
      {open === "change" && <PatientForm patient={patient} onDone={() => setOpen(null)} />}
      {open === "book" && <BookVisit patient={patient} onDone={() => setOpen(null)} />}
      {open === "archive" && <Archive patient={patient} onDone={() => setOpen(null)} />}
    </Box>
  );
}

/** Visits to come, and everything planned and placed, the newest first. */
function History({ patient }: { patient: Patient }) {
  const clock = useClock();
  const coming = patient.visits.filter((one) =>
    ["booked", "arrived", "in_the_chair"].includes(one.status),
  );
  return (
    <Box sx={{ display: "grid", gap: 2 }}>
      {coming.length > 0 && (
        <Box component="section" aria-label="Visits">
          <Box component="h2" sx={{ m: 0, mb: 0.5, fontSize: 18 }}>
            Visits
          </Box>
          {coming.map((visit) => (
            <Box key={visit.id} sx={{ py: 1, borderTop: `1px solid ${paper.rule}` }}>
              <strong>
                {clock.shortDay(visit.starts_at)}, {clock.time(visit.starts_at)}
              </strong>{" "}
              {visit.chair}, {visit.dentist}
              <Box sx={{ color: "text.secondary" }}>
                {visit.restorations.join(", ") || "no restoration yet"}
              </Box>
            </Box>
          ))}
        </Box>
      )}
      <Box component="section" aria-label="Restorations">
        <Box component="h2" sx={{ m: 0, mb: 0.5, fontSize: 18 }}>
          Restorations
        </Box>
        {patient.restorations.length === 0 && <Box>None yet. Tap a tooth.</Box>}
        {patient.restorations.map((one) => (
          <RestorationRow
            key={one.id}
            one={one}
            actions={
              <Button
                component={Link}
                to={one.record_id ? `/records/${one.record_id}` : `/bench/${one.id}`}
                variant="outlined"
                size="small"
              >
                {one.record_id ? "Record" : "Bench"}
              </Button>
            }
          >
            {one.material}, {statusOf(one)}
            <Box sx={{ color: "text.secondary", fontSize: 14 }}>
              {one.reason}
              {one.at ? ` · ${clock.shortDay(one.at)}` : " · not booked"}
            </Box>
          </RestorationRow>
        ))}
      </Box>
    </Box>
  );
}
