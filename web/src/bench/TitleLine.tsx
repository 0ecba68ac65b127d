import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import { Link, useNavigate } from "react-router";
import type { Case, Plan, Schemas } from "../api/client";
import { useSession } from "../session/queries";
import { treats } from "../session/roles";
import { apart, paper } from "../theme/tokens";
import { useSavePlan, useStartRun } from "./queries";
import { ownKey } from "./useDraft";

interface Props {
  restoration: Schemas["RestorationOut"];
  ready: boolean;
  draft: Case;
  plan: Plan;
}

/** Whose tooth is planned, and what becomes of the plan: saved, or started at the chair. */
export function TitleLine({ restoration, ready, draft, plan }: Props) {
  const { data: session } = useSession();
  const navigate = useNavigate();
  const save = useSavePlan(restoration.id);
  const start = useStartRun(restoration.id);
  const mayTreat = treats(session?.user?.role);
  const saved = restoration.plans.at(-1);
  const isOther = ownKey(draft) !== ownKey(restoration.case);
  const changed = !saved || isOther || restoration.missing.some(isOfPractice);

  async function startRun() {
    if (changed) await save.mutateAsync(draft);
    const run = await start.mutateAsync();
    void navigate(`/chair/${run.id}`);
  }

  const failed = save.error ?? start.error;
  return (
    <Box
      sx={{
        ...apart,
        px: 2,
        pt: 1,
        display: "flex",
        flexWrap: "wrap",
        gap: 1,
        alignItems: "center",
      }}
    >
      <Box>
        <Box component="h1" sx={{ m: 0, fontSize: 20, lineHeight: 1.15 }}>
          {restoration.tooth} {draft.restoration.surfaces}{" "}
          <Box component="span" sx={{ fontWeight: 400, fontSize: 16 }}>
            {restoration.tooth_name}
          </Box>
        </Box>
        <Box sx={{ color: "text.secondary", fontSize: 15, lineHeight: 1.2 }}>
          {restoration.patient_id === null ? (
            <Link to="/try" style={{ color: "inherit" }}>
              tried without a patient
            </Link>
          ) : (
            <Link to={`/patients/${restoration.patient_id}`} style={{ color: "inherit" }}>
              {restoration.patient}
            </Link>
          )}
          {restoration.alerts.map((alert) => (
            <Box component="strong" key={alert} sx={{ color: paper.brick, ml: 1.5 }}>
              {alert}
            </Box>
          ))}
        </Box>
      </Box>
      <Box
        className="no-print"
        sx={{ ml: "auto", display: "flex", flexWrap: "wrap", gap: 1, alignItems: "center" }}
      >
        <Box sx={{ fontSize: 14, color: "text.secondary" }} role="status">
          {saved
            ? changed
              ? `${isOther ? "" : "practice settings "}changed since plan ${saved.number}`
              : `plan ${saved.number} saved`
            : "not saved"}
        </Box>
        <Button
          variant="outlined"
          disabled={!mayTreat || !ready || !changed || save.isPending}
          onClick={() => save.mutate(draft)}
        >
          Save plan
        </Button>
        <Button
          variant="contained"
          disabled={
            !ready ||
            !plan.may_start ||
            restoration.patient_id === null ||
            restoration.status === "done" ||
            (changed && !mayTreat)
          }
          onClick={() => void startRun()}
        >
          {restoration.status === "running" ? "Go on chairside" : "Start chairside"}
        </Button>
      </Box>
      {failed && (
        <Box role="alert" sx={{ color: "error.main", width: "100%" }}>
          {failed.message}
        </Box>
      )}
    </Box>
  );
}

/** Whether a plan is out of date for what the practice changed. */
export function isOfPractice({ code }: Schemas["MissingOut"]): boolean {
  return code === "house.changed";
}
