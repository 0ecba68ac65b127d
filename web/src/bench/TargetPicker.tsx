import Box from "@mui/material/Box";
import { useState } from "react";
import type { Problem } from "../api/client";
import { paper } from "../theme/tokens";
import { Typed } from "./entries";
import { valueAt } from "./paths";
import type { Ask } from "./told";
import type { Draft, DraftActions } from "./useDraft";

interface Props {
  ask: Ask;
  draft: Draft;
  actions: DraftActions;
  problems: Problem[];
}

interface Target {
  lab?: number[];
}

const AXES = ["L*", "a*", "b*"];

function read(typed: string[]): number[] {
  return typed.map((one) => Number(one.replace(",", ".")));
}

function isColor(typed: string[]): boolean {
  return typed.every((one) => one.trim() !== "") && read(typed).every(Number.isFinite);
}

/** The color that was read, as three numbers; it counts once all three are there. */
export function TargetPicker({ ask, draft, actions, problems }: Props) {
  const [first, ...others] = (valueAt(draft.data, ask.path) as Target[] | undefined) ?? [];
  const known = first?.lab?.map(String) ?? ["", "", ""];
  const [entered, setEntered] = useState(known);
  // Whatever else sets the color, as taking a change back, shows here too.
  const told = isColor(entered) ? read(entered) : undefined;
  const typed = String(told) === String(first?.lab) ? entered : known;
  const problem = problems.find((p) => p.path.startsWith(ask.path));

  function type(at: number, value: string) {
    const now = typed.map((before, i) => (i === at ? value : before));
    setEntered(now);
    // A color that is told in part is none.
    actions.answer(ask, isColor(now) ? [{ ...first, lab: read(now) }, ...others] : others);
  }

  return (
    <Box role="group" aria-label={ask.name} title={ask.help} sx={{ gridColumn: "1 / -1" }}>
      <Box sx={{ fontSize: 14 }}>{ask.name}</Box>
      <Box sx={{ display: "grid", gridTemplateColumns: "repeat(3, 1fr)", gap: 1 }}>
        {AXES.map((axis, at) => (
          <Box
            key={axis}
            component="label"
            sx={{ display: "flex", alignItems: "center", gap: 0.75, fontSize: 15 }}
          >
            {axis}
            <Typed
              inputMode="decimal"
              data-path={`${ask.path}[0].lab[${at}]`}
              aria-invalid={problem !== undefined}
              value={typed[at]}
              onChange={(e) => type(at, e.target.value)}
              style={{
                borderStyle: typed[at] ? "solid" : "dashed",
                borderColor: problem ? paper.brick : paper.verdigris,
              }}
            />
          </Box>
        ))}
      </Box>
      {problem && (
        <Box role="alert" sx={{ color: "error.main", fontSize: 14 }}>
          {problem.got}? Allowed: {problem.allowed}
        </Box>
      )}
    </Box>
  );
}
