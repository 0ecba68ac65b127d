import Box from "@mui/material/Box";
import type { Schemas } from "../api/client";
import { paper } from "../theme/tokens";
import { OptionLine } from "./OptionLine";

interface Props {
  restoration: Schemas["RestorationOut"];
  refusal: Schemas["NoPlan"];
}

/** Why there is no plan, and what else would do. */
export function NoPlan({ restoration, refusal }: Props) {
  const options = refusal.options ?? [];
  return (
    <Box
      role="alert"
      sx={{ m: 3, p: 2, border: `2px solid ${paper.brick}`, bgcolor: paper.sheet, maxWidth: 720 }}
    >
      <Box component="h1" sx={{ m: 0, mb: 0.5, fontSize: 20 }}>
        No plan for {restoration.tooth}, {restoration.patient}
      </Box>
      <Box sx={{ mb: 1, fontSize: 18 }}>{refusal.requirement.text}</Box>
      {options.map((option, i) => (
        <OptionLine key={option.id} option={option} place={i + 1} />
      ))}
    </Box>
  );
}
