import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import type { Plan } from "../api/client";
import { paper } from "../theme/tokens";

/** What must be told before work may start. */
export function Wanted({ plan, onTell }: { plan: Plan; onTell: () => void }) {
  if (plan.may_start) return null;
  return (
    <Box
      role="status"
      aria-label="Before work may start"
      sx={{
        mt: 1,
        px: 1.5,
        py: 0.5,
        display: "flex",
        gap: 1,
        alignItems: "center",
        border: `2px solid ${paper.brick}`,
        color: paper.brick,
        fontWeight: 700,
      }}
    >
      <Box sx={{ flex: 1 }}>{plan.wanted_before.map((reason) => reason.text).join(" ")}</Box>
      <Button variant="outlined" onClick={onTell} sx={{ whiteSpace: "nowrap" }}>
        Tell it
      </Button>
    </Box>
  );
}
