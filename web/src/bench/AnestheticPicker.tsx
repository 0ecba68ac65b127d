import Box from "@mui/material/Box";
import type { Case, Problem } from "../api/client";
import { paper } from "../theme/tokens";
import { Pick, Typed } from "./entries";
import { type Draft, type DraftActions, textOf } from "./useDraft";

type Anesthetic = NonNullable<Case["isolation"]>["anesthetics"][number];

const AGENTS: [Anesthetic["agent"], string][] = [
  ["lidocaine_epinephrine", "lidocaine 2 %, epinephrine"],
  ["articaine_epinephrine", "articaine 4 %, epinephrine"],
  ["mepivacaine", "mepivacaine 3 %"],
  ["prilocaine", "prilocaine 4 %"],
  ["bupivacaine_epinephrine", "bupivacaine 0.5 %, epinephrine"],
];
const MOST = 4;
const GIVEN = "isolation.anesthetics";

interface Props {
  name: string;
  draft: Draft;
  actions: DraftActions;
  problems: Problem[];
}

/** The anesthetics of a visit with their volumes. No volume is ever put in by itself. */
export function AnestheticPicker({ name, draft, actions, problems }: Props) {
  const given = draft.data.isolation?.anesthetics ?? [];

  function pick(at: number, agent: string) {
    const kept = given.filter((_, i) => i !== at);
    const one = { ...given[at], agent } as Anesthetic;
    actions.set(GIVEN, agent === "" ? kept : [...given.slice(0, at), one, ...given.slice(at + 1)]);
  }

  return (
    <Box role="group" aria-label={name} sx={{ gridColumn: "1 / -1" }}>
      <Box sx={{ fontSize: 14 }}>{name}</Box>
      {[...given, null].slice(0, MOST).map((one, at) => {
        const volume = `${GIVEN}[${at}].volume_ml` as const;
        const problem = problems.find((p) => p.path === volume);
        return (
          <Box key={at} sx={{ display: "flex", gap: 0.5, mb: 0.5 }}>
            <Pick
              aria-label={`anesthetic ${at + 1}`}
              data-path={`${GIVEN}[${at}].agent`}
              value={one?.agent ?? ""}
              style={{ borderStyle: one ? "solid" : "dashed", borderColor: paper.verdigris }}
              onChange={(e) => pick(at, e.target.value)}
            >
              <option value="">{at === 0 ? "none recorded" : "and no other"}</option>
              {AGENTS.map(([agent, called]) => (
                <option key={agent} value={agent}>
                  {called}
                </option>
              ))}
            </Pick>
            {one && (
              <Typed
                aria-label={`mL of anesthetic ${at + 1}`}
                aria-invalid={problem !== undefined}
                data-path={volume}
                inputMode="decimal"
                autoComplete="off"
                placeholder="mL"
                value={textOf(draft, volume)}
                style={{
                  width: 72,
                  borderStyle: "solid",
                  borderColor: problem ? paper.brick : paper.verdigris,
                }}
                onFocus={actions.begin}
                onChange={(e) => actions.type(volume, e.target.value)}
              />
            )}
            {one && <Box sx={{ alignSelf: "center", fontSize: 14 }}>mL</Box>}
          </Box>
        );
      })}
    </Box>
  );
}
