import Box from "@mui/material/Box";
import { paper } from "../theme/tokens";
import { type Cusp, coverOf, withCover } from "./cover";
import type { Draft, DraftActions } from "./useDraft";

interface Props {
  name: string;
  cusps: string[];
  draft: Draft;
  actions: DraftActions;
}

/** The cusps of a tooth, each to be covered or not. */
export function CuspPicker({ name, cusps, draft, actions }: Props) {
  const taken = coverOf(draft.data)?.cusps ?? [];
  return (
    <Box role="group" aria-label={name} sx={{ gridColumn: "1 / -1" }}>
      <Box sx={{ fontSize: 14 }}>{name}</Box>
      <Box sx={{ display: "flex", flexWrap: "wrap", gap: 0.5 }}>
        {cusps.map((cusp) => {
          const isTaken = taken.includes(cusp as Cusp);
          return (
            <Box
              component="button"
              type="button"
              key={cusp}
              aria-pressed={isTaken}
              onClick={() => {
                const wanted = cusps.filter((one) =>
                  one === cusp ? !isTaken : taken.includes(one as Cusp),
                );
                const { parts, estimated } = withCover(draft.data, wanted as Cusp[]);
                actions.set("preparation.parts", parts, estimated);
              }}
              sx={{
                minHeight: 40,
                px: 1,
                font: "inherit",
                fontSize: 15,
                fontWeight: isTaken ? 700 : 400,
                cursor: "pointer",
                color: isTaken ? paper.sheet : "text.primary",
                bgcolor: isTaken ? paper.ink : paper.sheet,
                border: `1.5px solid ${isTaken ? paper.ink : paper.verdigris}`,
              }}
            >
              {cusp}
            </Box>
          );
        })}
      </Box>
    </Box>
  );
}
