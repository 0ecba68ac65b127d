import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import { useQuery } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { NavLink, useNavigate, useParams } from "react-router";
import { Folded } from "../shell/Folded";
import { type Schemas, client, unwrap } from "../api/client";
import { keys } from "../api/keys";
import { Labelled } from "../shell/Labelled";
import { Trouble } from "../shell/Trouble";
import { saidBy } from "../shell/said";
import { VerdictMark } from "../shell/Verdict";
import { Waiting } from "../shell/Waiting";
import { numerals, paper } from "../theme/tokens";
import { LampPage } from "./LampPage";
import { useAddLamp } from "./queries";

/** The practice's lamps: what each gives, and how far it can be trusted. */
export default function LightsView() {
  const lights = useQuery({
    queryKey: keys.lights,
    queryFn: () => unwrap(client.GET("/api/lights")),
    refetchOnMount: "always",
  });
  const { lampId } = useParams();
  if (lights.isPending) return <Waiting />;
  if (lights.isError) return <Trouble error={lights.error} again={() => void lights.refetch()} />;
  const id = lampId ? Number(lampId) : lights.data[0]?.id;
  return (
    <Box
      sx={{
        p: { xs: 2, md: 3 },
        display: "grid",
        gap: 3,
        gridTemplateColumns: { xs: "minmax(0, 1fr)", md: "210px minmax(0, 1fr)" },
        width: "100%",
        maxWidth: 1320,
        mx: "auto",
        "@media print": { display: "block" },
      }}
    >
      <Box component="nav" aria-label="Curing lights" className="no-print">
        {lights.data.map((light) => (
          <LampLink key={light.id} light={light} isShown={light.id === id} />
        ))}
        <NewLamp />
      </Box>
      {id === undefined ? (
        <Box>No curing light yet. Add yours, then measure it.</Box>
      ) : (
        <LampPage key={id} id={id} />
      )}
    </Box>
  );
}

function LampLink({ light, isShown }: { light: Schemas["LightOut"]; isShown: boolean }) {
  const level = light.flags.some((f) => f.level === "stop") ? "fail" : "caution";
  return (
    <Box
      component={NavLink}
      to={`/lights/${light.id}`}
      sx={{
        display: "grid",
        gridTemplateColumns: "1fr auto",
        p: 1.5,
        mb: 1,
        color: "inherit",
        textDecoration: "none",
        bgcolor: paper.sheet,
        border: isShown ? `2px solid ${paper.ink}` : `1px solid ${paper.rule}`,
        ...numerals,
      }}
    >
      <strong>{light.name}</strong>
      <VerdictMark verdict={light.flags.length > 0 ? level : "pass"} />
      <Box sx={{ fontSize: 24, fontWeight: 700 }}>
        {light.contact_mw_cm2?.toFixed(0) ?? "?"}
        <span style={{ fontSize: 14, fontWeight: 400 }}> mW/cm²</span>
      </Box>
    </Box>
  );
}

function NewLamp() {
  const navigate = useNavigate();
  const add = useAddLamp();
  const [isOpen, setIsOpen] = useState(false);
  const [name, setName] = useState("");
  const [tip, setTip] = useState("8");
  const [steps, setSteps] = useState("10, 20");
  const [peak, setPeak] = useState("");
  const [ramp, setRamp] = useState({ start: "", rise: "" });
  const [pulsed, setPulsed] = useState("");
  if (!isOpen)
    return (
      <Button variant="outlined" fullWidth onClick={() => setIsOpen(true)}>
        Add a curing light
      </Button>
    );

  function submit(event: FormEvent) {
    event.preventDefault();
    const time_steps_s = steps
      .split(/[,;\s]+/)
      .filter(Boolean)
      .map(Number);
    add.mutate(
      {
        name,
        tip_diameter_mm: Number(tip),
        time_steps_s,
        peak_nm: peak.trim() === "" ? null : Number(peak),
        output_modes: otherModes(ramp, pulsed),
      },
      {
        onSuccess: (lamp) => {
          setIsOpen(false);
          void navigate(`/lights/${lamp.id}`);
        },
      },
    );
  }

  return (
    <Box component="form" onSubmit={submit} sx={FORM}>
      <Labelled name="name" width="100%" value={name} onChange={setName} />
      <Labelled name="tip diameter, mm" width="100%" value={tip} onChange={setTip} />
      <Labelled name="timer settings, s" width="100%" value={steps} onChange={setSteps} />
      <Labelled name="peak, nm, if known" width="100%" value={peak} onChange={setPeak} />
      <Folded name="Output other than full">
        <Box sx={FORM}>
          <Labelled
            name="ramp begins at, %"
            width="100%"
            value={ramp.start}
            onChange={(start) => setRamp({ ...ramp, start })}
          />
          <Labelled
            name="ramp is full in, s"
            width="100%"
            value={ramp.rise}
            onChange={(rise) => setRamp({ ...ramp, rise })}
          />
          <Labelled name="pulses are on, %" width="100%" value={pulsed} onChange={setPulsed} />
        </Box>
      </Folded>
      <Button type="submit" variant="contained" disabled={!name || add.isPending}>
        Add
      </Button>
      {add.isError && <Box role="alert">{saidBy(add.error)}</Box>}
    </Box>
  );
}

/** Fields below each other, none wider than the list that they stand in. */
const FORM = { display: "grid", gridTemplateColumns: "minmax(0, 1fr)", gap: 1.5, pt: 1 } as const;

/** The modes that were filled in; a half-filled ramp is sent, so that the server names what is missing. */
function otherModes(ramp: { start: string; rise: string }, pulsed: string) {
  const modes: NonNullable<Schemas["LampIn"]["output_modes"]> = [];
  if (ramp.start.trim() || ramp.rise.trim())
    modes.push({ kind: "ramp", start_share: Number(ramp.start) / 100, rise_s: Number(ramp.rise) });
  if (pulsed.trim()) modes.push({ kind: "pulsed", on_share: Number(pulsed) / 100 });
  return modes;
}
