import Box from "@mui/material/Box";
import { memo } from "react";
import type { Plan } from "../api/client";
import { VerdictMark } from "../shell/Verdict";
import { paper } from "../theme/tokens";

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
      {plan.stages.map((stage) => {
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
              <VerdictMark verdict={stage.verdict ?? "pass"} />
            </Box>
            <Box component="span" sx={{ minWidth: { lg: 0 }, lineHeight: 1.3 }}>
              {stage.name}
              <Box
                component="span"
                title={stage.says}
                sx={{
                  display: { xs: "none", lg: "block" },
                  fontSize: 14,
                  color: "text.secondary",
                  overflow: "hidden",
                  textOverflow: "ellipsis",
                  whiteSpace: "nowrap",
                }}
              >
                {stage.says}
              </Box>
            </Box>
          </Box>
        );
      })}
    </Box>
  );
});
