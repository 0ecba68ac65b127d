import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import { useState } from "react";
import { Link } from "react-router";
import type { Schemas } from "../api/client";
import { Labelled } from "../shell/Labelled";
import { numerals, paper } from "../theme/tokens";
import { type Lamp, useLampEvent } from "./queries";
import { dayOf } from "../session/time";

type Kind = Schemas["LightEventIn"]["kind"];

const BUTTONS: Record<Kind, string> = {
  cleaned: "Tip cleaned",
  repaired: "Repaired",
  lent: "Lent",
  returned: "Back again",
  retired: "Retire",
};

/** What was done with the lamp, and what can be written down next. */
export function Upkeep({ lamp }: { lamp: Lamp }) {
  const [note, setNote] = useState("");
  const event = useLampEvent(lamp.id);
  const offered: Kind[] =
    lamp.state === "retired"
      ? ["returned"]
      : lamp.state === "lent"
        ? ["returned", "retired"]
        : ["cleaned", "repaired", "lent", "retired"];
  return (
    <Box component="section" aria-label="Upkeep" className="no-print">
      <Box component="h2" sx={{ m: 0, mb: 1, fontSize: 18 }}>
        Upkeep
      </Box>
      <Box sx={{ display: "flex", gap: 1, flexWrap: "wrap", alignItems: "end" }}>
        <Labelled name="note" value={note} onChange={setNote} />
        {offered.map((kind) => (
          <Button
            key={kind}
            variant="outlined"
            disabled={event.isPending}
            sx={{ minHeight: 40 }}
            onClick={() => event.mutate({ kind, note }, { onSuccess: () => setNote("") })}
          >
            {BUTTONS[kind]}
          </Button>
        ))}
      </Box>
      {event.isError && <Box role="alert">{event.error.message}</Box>}
      <Box component="ul" sx={{ listStyle: "none", p: 0, my: 1, ...numerals }}>
        {lamp.events
          .slice()
          .reverse()
          .map((e, i) => (
            <li key={lamp.events.length - i}>
              {dayOf(e.happened_on)}: {e.kind}
              {e.note && `, ${e.note}`} ({e.who})
            </li>
          ))}
      </Box>
    </Box>
  );
}

/** Plans still to be carried out that count on light which the lamp has lost. */
export function Outdated({ lamp }: { lamp: Lamp }) {
  if (lamp.outdated.length === 0) return null;
  return (
    <Box
      component="section"
      className="no-print"
      aria-label="Plans made with more light"
      sx={{ p: 1.5, bgcolor: paper.sheet, border: `2px solid ${paper.ochre}` }}
    >
      <strong>Plan again: made when {lamp.name} gave more</strong>
      <Box component="ul" sx={{ listStyle: "none", m: 0, p: 0, ...numerals }}>
        {lamp.outdated.map((o) => (
          <li key={o.restoration_id}>
            <Link to={`/bench/${o.restoration_id}`} style={{ color: paper.verdigris }}>
              {o.tooth} {o.patient}
            </Link>
            , plan {o.plan_number}, counts on {o.counted_mw_cm2.toFixed(0)} mW/cm²
          </li>
        ))}
      </Box>
    </Box>
  );
}
