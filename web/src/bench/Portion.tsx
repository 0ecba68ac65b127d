import Box from "@mui/material/Box";
import IconButton from "@mui/material/IconButton";
import { memo } from "react";
import type { Plan, Schemas } from "../api/client";
import { numerals, paper } from "../theme/tokens";
import { Why } from "./Why";
import { stepIncrement } from "./increments";
import { shown, withUnit } from "../shell/units";

interface Props {
  plan: Plan;
  selected: number | null;
  onSelect: (order: number | null) => void;
}

const LINES =
  "A line in the drawing joins the places where all exposures of this increment bring so many times the" +
  " required radiant exposure. What is placed and banded by then" +
  " weakens or blocks the light; walls reflect nothing.";

type Increment = Plan["increments"][number];

const DOING = { cured: "Light-cure", set: "Place", condensed: "Condense", stepped: "Step" };

/** Returns what the lines in the drawing say of an increment that is lit. */
function linesOf({ detail }: Increment): string {
  return detail.kind === "cured" ? LINES : "";
}

/** Returns the curing cycles of an increment, and from where when it is not from occlusal alone. */
function lightOf({ detail }: Increment): string {
  if (detail.kind !== "cured") return "";
  const { exposures } = detail;
  const isPlain = exposures.length === 1 && exposures[0]?.from === "occlusal";
  return exposures
    .map((e) => `${e.presses.join(" + ")} s${isPlain ? "" : ` ${e.from.replace("_", " ")}`}`)
    .join(", ");
}

/** Returns the rules behind an increment's light: those of its seconds, then those of the light everywhere. */
function rulesOf({ rules }: Increment, everywhere: Schemas["RuleUse"][]): Schemas["RuleUse"][] {
  const known = new Set(rules.map((use) => use.rule));
  return [...rules, ...everywhere.filter((use) => !known.has(use.rule))];
}

/** Steps through the increments: what each is, and what its light gives it. */
export const Portion = memo(function Portion({ plan, selected, onSelect }: Props) {
  const count = plan.increments.length;
  const one = plan.increments.find((i) => i.order === selected);
  // What the weakest point of all rests on, every increment's does.
  const everywhere = plan.figures.find((f) => f.id === "weakest_point");
  const move = (by: number) => onSelect(stepIncrement(selected, by, count));
  return (
    <Box
      sx={{
        display: "flex",
        alignItems: "center",
        justifyContent: "flex-end",
        gap: 1,
        minHeight: 44,
      }}
    >
      <Box
        aria-live="polite"
        sx={{
          fontSize: 15,
          lineHeight: 1.3,
          px: 1,
          py: 0.5,
          bgcolor: paper.sheet,
          border: `1px solid ${paper.rule}`,
          ...numerals,
        }}
      >
        {one ? (
          <>
            <strong>
              {one.order} {one.name}
            </strong>{" "}
            ·{" "}
            {[one.product, `${one.volume_mm3.toFixed(1)} mm³`, lightOf(one)]
              .filter(Boolean)
              .join(" · ")}
            {one.measures.map((m) => (
              <span key={m.id} title={m.why}>
                {" · "}
                {m.title} {withUnit(shown(m.value), m.unit)}
              </span>
            ))}
            {one.shaping && (
              <Box component="span" sx={{ color: paper.soft }}>
                {" "}
                · {one.shaping}
              </Box>
            )}
            <Why
              title={`${DOING[one.detail.kind]} the ${one.name}`}
              how={[one.reasons.map((reason) => reason.text).join(" "), linesOf(one)]
                .filter(Boolean)
                .join("\n")}
              rules={rulesOf(one, everywhere?.rules ?? [])}
              inputs={everywhere?.inputs ?? []}
            />
          </>
        ) : (
          <Box component="span" sx={{ color: "text.secondary" }}>
            {count === 1
              ? "1 increment: click it"
              : `${count} increments: step through, or click one`}
          </Box>
        )}
      </Box>
      <Arrow name="Increment before" d="M11 3L5 9l6 6" onClick={() => move(-1)} />
      <Arrow name="Increment after" d="M7 3l6 6-6 6" onClick={() => move(1)} />
    </Box>
  );
});

function Arrow({ name, d, onClick }: { name: string; d: string; onClick: () => void }) {
  return (
    <IconButton
      aria-label={name}
      onClick={onClick}
      sx={{
        border: `1.5px solid ${paper.ink}`,
        borderRadius: "2px",
        width: 44,
        height: 44,
        bgcolor: paper.sheet,
      }}
    >
      <svg width="18" height="18" viewBox="0 0 18 18">
        <path d={d} fill="none" stroke={paper.ink} strokeWidth="2.2" />
      </svg>
    </IconButton>
  );
}
