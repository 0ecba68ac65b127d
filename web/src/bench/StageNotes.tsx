import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import type { Plan } from "../api/client";
import { paper } from "../theme/tokens";
import { OptionLine } from "./OptionLine";
import { STAGES } from "./StageRail";

const PREFIX: Record<string, string> = {
  choose: "choose.",
  prepare: "prepare.",
  matrix: "matrix.",
  bond: "bond.",
  build: "build.",
};

/** What was decided at a stage, with every reason. */
export function StageNotes({
  plan,
  stage,
  onClose,
}: {
  plan: Plan;
  stage: string;
  onClose: () => void;
}) {
  const name = STAGES.find((s) => s.id === stage)?.name ?? stage;
  const prefix = PREFIX[stage];
  const decisions = prefix ? plan.decisions.filter((d) => d.topic.startsWith(prefix)) : [];
  const steps = plan.steps.filter((s) => s.stage === stage && s.actor !== "assistant");
  return (
    <Box sx={{ border: `1.5px solid ${paper.ink}`, p: 1.25, mb: 1, fontSize: 15 }}>
      <Box sx={{ display: "flex", justifyContent: "space-between", alignItems: "start" }}>
        <Box component="h2" sx={{ m: 0, fontSize: 17 }}>
          {name}
        </Box>
        <Button size="small" onClick={onClose}>
          Close
        </Button>
      </Box>
      {decisions.map((d) => (
        <Box key={d.topic} sx={{ mb: 1 }}>
          <strong>{d.chosen}</strong>
          {d.reasons.map((r) => (
            <Box key={r.code} sx={{ color: "text.secondary" }}>
              {r.text}
            </Box>
          ))}
          {d.options?.map((option, i) => (
            <OptionLine key={option.id} option={option} place={i + 1} />
          ))}
          {d.alternatives.length > 0 && !d.options?.length && (
            <Box sx={{ fontSize: 14, color: "text.secondary" }}>
              Else: {d.alternatives.join("; ")}
            </Box>
          )}
        </Box>
      ))}
      <Box component="ol" sx={{ m: 0, pl: 2.5 }}>
        {steps.map((s) => (
          <li key={s.id}>
            {s.title}, {s.seconds} s
          </li>
        ))}
      </Box>
    </Box>
  );
}
