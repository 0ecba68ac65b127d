import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import type { Plan, Schemas } from "../api/client";
import { Verdict } from "../shell/Verdict";
import { numerals, paper } from "../theme/tokens";
import { STAGES } from "./StageRail";
import { Why } from "./Why";

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

/** One way of several: how much it weighs, every reason for and against, and what forbids it. */
function OptionLine({ option, place }: { option: Schemas["Option"]; place: number }) {
  const rules = [...option.speaks_for, ...option.speaks_against].map((a) => a.rule);
  return (
    <Box sx={{ py: 0.75, borderTop: `1px solid ${paper.rule}` }}>
      <Box sx={{ display: "flex", gap: 1, alignItems: "baseline", ...numerals }}>
        <Box sx={{ flex: 1, fontWeight: 700, color: option.is_stopped ? paper.brick : "inherit" }}>
          {place}. {option.name}
        </Box>
        <span>{option.is_stopped ? "stopped" : `${signed(option.points)} points`}</span>
        <Why title={option.name} rules={rules} />
      </Box>
      <Box component="ul" sx={{ listStyle: "none", m: 0, p: 0, fontSize: 14 }}>
        {option.limits.map((limit) => (
          <Verdict
            key={limit.text + limit.authority}
            verdict={limit.stops ? "fail" : "caution"}
            text={`${limit.text} (${limit.authority})`}
          />
        ))}
        {option.speaks_for.map((a) => (
          <li key={a.text}>
            {signed(a.points)} {a.text}
          </li>
        ))}
        {option.speaks_against.map((a) => (
          <li key={a.text}>
            {signed(-a.points)} {a.text}
          </li>
        ))}
        {option.wins_without && (
          <li>
            <em>Would come first but for: {option.wins_without}</em>
          </li>
        )}
      </Box>
    </Box>
  );
}

function signed(points: number): string {
  return points < 0 ? `\u2212${-points}` : `+${points}`;
}
