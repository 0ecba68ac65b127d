import Box from "@mui/material/Box";
import type { Problem, Schemas } from "../api/client";
import { paper } from "../theme/tokens";
import { Options } from "./Options";
import { StageInputs } from "./StageInputs";
import type { Draft, DraftActions } from "./useDraft";

interface Props {
  restoration: Schemas["RestorationOut"];
  refusal: Schemas["NoPlan"];
  draft: Draft;
  actions: DraftActions;
  problems: Problem[];
}

/** Why there is no plan, what would lift it, and what else would do. */
export function NoPlan({ restoration, refusal, draft, actions, problems }: Props) {
  const options = refusal.options ?? [];
  const about = refusal.requirement.code.split(".")[0];
  const stage = refusal.stages?.find((one) => one.id === about);
  return (
    <Box
      sx={{ m: 3, p: 2, border: `2px solid ${paper.brick}`, bgcolor: paper.sheet, maxWidth: 720 }}
    >
      <Box component="h1" sx={{ m: 0, mb: 0.5, fontSize: 20 }}>
        No plan for {restoration.tooth}, {restoration.patient}
      </Box>
      <Box role="alert" sx={{ mb: 1, fontSize: 18 }}>
        {refusal.requirement.text}
      </Box>
      <StageInputs asks={stage?.asks ?? []} draft={draft} actions={actions} problems={problems} />
      <Options restorationId={restoration.id} options={options} draft={draft} actions={actions} />
    </Box>
  );
}
