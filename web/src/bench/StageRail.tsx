import Box from "@mui/material/Box";
import { memo } from "react";
import type { Plan } from "../api/client";
import { type VerdictKind, VerdictMark } from "../shell/Verdict";
import { paper } from "../theme/tokens";

interface Stage {
  id: string;
  name: string;
  say: (plan: Plan) => string;
  topics: string[];
  /** Beginnings of the codes of cautions that belong to it. */
  codes?: string[];
}

function chosen(plan: Plan, topic: string): string {
  return plan.decisions.find((d) => d.topic.startsWith(topic))?.chosen ?? "";
}

export const STAGES: Stage[] = [
  {
    id: "assess",
    name: "Know the tooth",
    topics: [],
    codes: ["assess."],
    say: (plan) => chosen(plan, "assess."),
  },
  {
    id: "shade",
    name: "Shade, first look",
    topics: [],
    codes: ["shade."],
    say: (plan) => chosen(plan, "shade."),
  },
  {
    id: "choose",
    name: "Choose",
    topics: [],
    codes: ["choose."],
    say: (plan) => chosen(plan, "choose."),
  },
  {
    id: "isolate",
    name: "Isolate",
    topics: ["isolate."],
    codes: ["alert.", "isolate.", "anesthetic."],
    say: (plan) => chosen(plan, "isolate."),
  },
  {
    id: "prepare",
    name: "Prepare",
    topics: ["remaining_dentin", "prepare."],
    codes: ["margin."],
    say: ({ geometry: { remaining_dentin_mm: left } }) =>
      left == null ? "no living pulp" : `${left.toFixed(1)} mm over the pulp`,
  },
  {
    id: "protect",
    name: "Protect",
    topics: ["protect."],
    codes: ["protect."],
    say: (plan) => chosen(plan, "protect"),
  },
  {
    id: "matrix",
    name: "Matrix and wedge",
    topics: ["band.", "wedge", "contact."],
    say: (plan) => chosen(plan, "matrix.").replace(" with separating ring", ""),
  },
  {
    id: "bond",
    name: "Bond",
    topics: [],
    codes: ["bond."],
    say: (plan) => chosen(plan, "bond."),
  },
  {
    id: "build",
    name: "Build",
    topics: ["increment.", "lamp.", "window."],
    say: (plan) => `${plan.totals.increments} increments, ${plan.totals.cure_seconds} s`,
  },
  { id: "finish", name: "Finish and check", topics: [], say: () => "trim, contact, bite, polish" },
];

/** Returns the checks that belong to a stage. */
export function checksOf(plan: Plan, stage: Stage): Plan["checks"] {
  return plan.checks.filter((c) => stage.topics.some((t) => c.topic.startsWith(t)));
}

function verdictOf(plan: Plan, stage: Stage): VerdictKind {
  const found = checksOf(plan, stage);
  if (found.some((c) => c.verdict === "fail")) return "fail";
  const warned = plan.cautions.some(
    (c) => c.level !== "note" && stage.codes?.some((code) => c.code.startsWith(code)),
  );
  const isWanted = stage.id === "assess" && !plan.may_start;
  return warned || isWanted || found.some((c) => c.verdict === "caution") ? "caution" : "pass";
}

interface Props {
  plan: Plan;
  selected: string | null;
  onSelect: (stage: string | null) => void;
}

/** The order of work down the side; picking a stage shows its reasons and its steps on the tape. */
export const StageRail = memo(function StageRail({ plan, selected, onSelect }: Props) {
  return (
    <Box
      component="nav"
      aria-label="Order of work"
      sx={{
        // On a small screen a row to be drawn along, above the picture.
        display: { xs: "flex", lg: "block" },
        gridColumn: { xs: "1 / -1", lg: "auto" },
        borderRight: { lg: `1px solid ${paper.rule}` },
        borderBottom: { xs: `1px solid ${paper.rule}`, lg: 0 },
        bgcolor: paper.sheet,
        py: { lg: 1 },
        overflow: "auto",
        "@media print": { display: "none" },
        contain: "content",
      }}
    >
      {STAGES.map((stage) => {
        const on = selected === stage.id;
        return (
          <Box
            key={stage.id}
            component="button"
            type="button"
            aria-pressed={on}
            onClick={() => onSelect(on ? null : stage.id)}
            sx={{
              display: "grid",
              gridTemplateColumns: { xs: "26px auto", lg: "26px minmax(0, 1fr)" },
              alignItems: { xs: "center", lg: "start" },
              gap: 0.5,
              flexShrink: 0,
              width: { lg: "100%" },
              minHeight: { xs: 48, lg: 52, xl: 60 },
              whiteSpace: { xs: "nowrap", lg: "normal" },
              textAlign: "left",
              border: 0,
              borderLeft: { lg: `5px solid ${on ? paper.verdigris : "transparent"}` },
              borderBottom: { xs: `4px solid ${on ? paper.verdigris : "transparent"}`, lg: 0 },
              bgcolor: on ? paper.verdigrisPale : "transparent",
              font: "inherit",
              color: "text.primary",
              px: 1,
              py: 0.5,
              cursor: "pointer",
            }}
          >
            <Box sx={{ pt: "2px" }}>
              <VerdictMark verdict={verdictOf(plan, stage)} />
            </Box>
            <Box component="span" sx={{ minWidth: { lg: 0 }, lineHeight: 1.3 }}>
              {stage.name}
              <Box
                component="span"
                title={stage.say(plan)}
                sx={{
                  display: { xs: "none", lg: "block" },
                  fontSize: 14,
                  color: "text.secondary",
                  overflow: "hidden",
                  textOverflow: "ellipsis",
                  whiteSpace: "nowrap",
                }}
              >
                {stage.say(plan)}
              </Box>
            </Box>
          </Box>
        );
      })}
    </Box>
  );
});
