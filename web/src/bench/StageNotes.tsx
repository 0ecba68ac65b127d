import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import { useEffect, useRef, useState } from "react";
import type { Plan, Problem, Schemas } from "../api/client";
import { TextButton } from "../shell/TextButton";
import { paper } from "../theme/tokens";
import { ColorChoices, ColorPanel } from "./ColorPanel";
import { Options } from "./Options";
import { Increments } from "./Increments";
import { StageInputs } from "./StageInputs";
import { CheckLines } from "./Reckoning";
import { Why } from "./Why";
import { SHADE } from "./told";
import type { Draft, DraftActions } from "./useDraft";

interface Props {
  restorationId: number;
  plan: Plan;
  stage: string;
  draft: Draft;
  actions: DraftActions;
  problems: Problem[];
  increment: number | null;
  onIncrement: (order: number) => void;
  onClose: () => void;
}

/** No more is taken by what stays in sight above the notes. */
const FIGURES_PX = 320;
/** The stage at which increments are placed. */
const PLACING = "build";
/** What is held against the retention that lost cusps ask for. */
const RETENTION = "prepare.retention";

/** What a stage asks for, and what was decided at it, with every reason. */
export function StageNotes({
  restorationId,
  plan,
  stage,
  draft,
  actions,
  problems,
  increment,
  onIncrement,
  onClose,
}: Props) {
  const own = plan.stages.find((s) => s.id === stage);
  const name = own?.name ?? stage;
  const stageChecks = plan.checks.filter((c) => own?.checks?.includes(c.topic));
  const decisions = plan.decisions.filter((d) => own?.decisions?.includes(d.topic));
  // On a phone the notes lie below the picture, elsewhere below the key figures, which stay in sight.
  const ref = useRef<HTMLElement>(null);
  useEffect(() => {
    ref.current?.scrollIntoView({ block: "start" });
  }, [stage]);
  const color = stage === SHADE ? plan.color : null;
  const steps = plan.steps.filter((s) => s.stage === stage && s.actor !== "assistant");
  return (
    <Box
      component="section"
      ref={ref}
      aria-label={name}
      data-stage-notes={stage}
      onKeyDown={(e) => {
        if (e.key === "Escape") onClose();
      }}
      sx={{
        border: `1.5px solid ${paper.ink}`,
        p: 1.25,
        mb: 1,
        fontSize: 15,
        scrollMarginTop: { xs: 8, md: FIGURES_PX },
      }}
    >
      <Box sx={{ display: "flex", justifyContent: "space-between", alignItems: "center" }}>
        <Box component="h2" sx={{ m: 0, fontSize: 17 }}>
          {name}
        </Box>
        <Button size="small" onClick={onClose} sx={{ minHeight: 36, my: -0.5 }}>
          Close
        </Button>
      </Box>
      {color && <ColorPanel color={color} />}
      <StageInputs
        key={stage}
        asks={own?.asks ?? []}
        draft={draft}
        actions={actions}
        problems={problems}
        cusps={plan.geometry.cusps}
        wantsHold={stageChecks.some((c) => c.topic === RETENTION && c.verdict !== "pass")}
      />
      {color && <ColorChoices color={color} draft={draft} />}
      {stage === PLACING && plan.increments.length > 1 && (
        <Increments increments={plan.increments} selected={increment} onSelect={onIncrement} />
      )}
      {stageChecks.length > 0 && (
        <Box
          component="ul"
          aria-label="Checks of this stage"
          sx={{ listStyle: "none", m: 0, p: 0 }}
        >
          <CheckLines checks={stageChecks} />
        </Box>
      )}
      {decisions.map((d) => (
        <Box key={d.topic} sx={{ mb: 1 }}>
          <strong>{d.chosen}</strong>
          {d.rules && d.rules.length > 0 && <Why title={d.chosen} rules={d.rules} />}
          {d.reasons.map((r) => (
            <Box key={r.code} sx={{ color: "text.secondary" }}>
              {r.text}
            </Box>
          ))}
          {d.options && (
            <Options
              restorationId={restorationId}
              options={d.options}
              draft={draft}
              actions={actions}
            />
          )}
          {d.missed && d.missed.length > 0 && <Missed missed={d.missed} />}
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
            {(s.seconds_rule ?? s.seconds_input) && (
              <Why
                title={s.title}
                rules={s.seconds_rule ? [s.seconds_rule] : []}
                inputs={s.seconds_input ? [s.seconds_input] : []}
              />
            )}
          </li>
        ))}
      </Box>
    </Box>
  );
}

const NEAREST = 3;

/** What is in stock and would not do, the nearest first; the rest once it is asked for. */
function Missed({ missed }: { missed: Schemas["Miss"][] }) {
  const [isOpen, setIsOpen] = useState(false);
  const rest = missed.length - NEAREST;
  return (
    <Box sx={{ mt: 0.5, fontSize: 14, color: "text.secondary" }}>
      Would not do:
      <Box component="ul" aria-label="Would not do" sx={{ m: 0, pl: 2 }}>
        {missed.slice(0, isOpen ? undefined : NEAREST).map((miss) => (
          <li key={miss.name}>
            {miss.name}: {miss.reasons.map((r) => r.text).join(" ")}
          </li>
        ))}
      </Box>
      {rest > 0 && (
        <TextButton onPress={() => setIsOpen(!isOpen)}>
          {isOpen ? "fewer" : `${rest} more`}
        </TextButton>
      )}
    </Box>
  );
}
