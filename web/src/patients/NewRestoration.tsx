import Alert from "@mui/material/Alert";
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import { useState } from "react";
import { useNavigate } from "react-router";
import type { Schemas } from "../api/client";
import { useClock } from "../session/time";
import { Toggles } from "../shell/Toggles";
import { saidBy } from "../shell/said";
import { type Placed, useBegin } from "./queries";
import { SurfacePicker } from "./SurfacePicker";
import { type Tooth, inOrder } from "./teeth";

type Cause = NonNullable<Schemas["BeginIn"]["cause"]>;

const CAUSES: { value: Cause; name: string }[] = [
  { value: "caries", name: "caries" },
  { value: "caries_adjacent", name: "caries adjacent to a restoration" },
  { value: "fracture", name: "fracture" },
  { value: "cracked_cusp", name: "cracked cusp" },
  { value: "wear", name: "wear" },
  { value: "deep_fissures", name: "deep fissures" },
  { value: "lost_sealant", name: "lost sealant" },
  { value: "core", name: "core before a crown" },
  { value: "patient_request", name: "patient request" },
];

interface Props {
  /** Nobody's is tried out. */
  patientId: number | null;
  tooth: Tooth;
  placed: Placed[];
}

/** Begins a restoration of a tooth: its surfaces, and why; the Bench opens with a plan. */
export function NewRestoration({ patientId, tooth, placed }: Props) {
  const [surfaces, setSurfaces] = useState(new Set<string>());
  const [cause, setCause] = useState<Cause>("caries");
  const begin = useBegin(patientId);
  const navigate = useNavigate();
  const clock = useClock();
  const last = placed.find((one) => one.status === "done");

  function toggle(letter: string) {
    const now = new Set(surfaces);
    if (!now.delete(letter)) now.add(letter);
    setSurfaces(now);
  }

  function plan(from: Placed | null) {
    const told = from
      ? { surfaces: from.surfaces, last_id: from.id, cause: "caries_adjacent" as const }
      : { surfaces: inOrder(surfaces), cause };
    begin.mutate(
      { tooth: tooth.code, reason: "", ...told },
      { onSuccess: (made) => void navigate(`/bench/${made.id}`) },
    );
  }

  return (
    <Box component="section" aria-label="New restoration" sx={{ display: "grid", gap: 1.5 }}>
      <Box sx={{ display: "flex", alignItems: "baseline", gap: 1 }}>
        <Box component="h2" sx={{ m: 0, fontSize: 20 }}>
          {patientId === null ? "Try a cavity" : "New restoration"}: {tooth.shown}
        </Box>
        <Box sx={{ ml: "auto", fontSize: 24, fontWeight: 700 }} aria-live="polite">
          {inOrder(surfaces)}
        </Box>
      </Box>
      <Box sx={{ color: "text.secondary" }}>{tooth.name}. Tap its surfaces.</Box>
      <SurfacePicker tooth={tooth} surfaces={surfaces} onToggle={toggle} />
      <Box sx={{ color: "text.secondary" }}>Why is it treated?</Box>
      <Toggles label="Why it is treated" value={cause} options={CAUSES} onChange={setCause} />
      <Button
        variant="contained"
        size="large"
        disabled={surfaces.size === 0 || begin.isPending}
        onClick={() => plan(null)}
      >
        Plan on the Bench
      </Button>
      {last && (
        <Button variant="outlined" disabled={begin.isPending} onClick={() => plan(last)}>
          Start from the {last.surfaces} {last.material}
          {last.at && ` of ${clock.shortDay(last.at)}`}
        </Button>
      )}
      <Box sx={{ color: "text.secondary", fontSize: 14 }}>
        Measure on the Bench: sizes start from this tooth’s handbook crown, marked as estimates.
      </Box>
      {begin.isError && <Alert severity="error">{saidBy(begin.error)}</Alert>}
    </Box>
  );
}
