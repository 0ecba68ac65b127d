import Box from "@mui/material/Box";
import { SURENESS } from "../shell/units";
import { paper } from "../theme/tokens";
import type { Dispute } from "./queries";

/** What each side of a dispute says, side by side, and what is taken unless told otherwise. */
export function Sides({ dispute }: { dispute: Dispute }) {
  return (
    <Box sx={{ border: `1px solid ${paper.rule}`, bgcolor: paper.sheet, p: 1.5 }}>
      <Box sx={{ fontWeight: 700 }}>{dispute.title}</Box>
      <Box
        sx={{
          display: "grid",
          gridTemplateColumns: { xs: "1fr", sm: `repeat(${dispute.sides.length}, 1fr)` },
          my: 1,
        }}
      >
        {dispute.sides.map((side, i) => (
          <Box
            key={side.says}
            sx={{
              px: { xs: 0, sm: 1.5 },
              pl: { sm: i === 0 ? 0 : 1.5 },
              borderLeft: { sm: i === 0 ? 0 : `1px solid ${paper.rule}` },
            }}
          >
            {side.says}
            <Box sx={{ fontSize: 14, color: "text.secondary" }}>
              {side.citation} · {SURENESS[side.sureness]}
            </Box>
          </Box>
        ))}
      </Box>
      <Box>
        Ours: <strong>{dispute.default}.</strong> {dispute.why}
      </Box>
    </Box>
  );
}
