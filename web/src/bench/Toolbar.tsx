import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import MenuItem from "@mui/material/MenuItem";
import Select from "@mui/material/Select";
import { Choice } from "../shell/Choice";
import { BOTH } from "./Picture";
import type { Draft, DraftActions } from "./useDraft";
import { apart } from "../theme/tokens";
import type { Plan } from "../api/client";
import { valueAt } from "./paths";
import { TECHNIQUE, askAt } from "./told";

interface ToolbarProps {
  views: string[];
  view: string;
  onView: (view: string) => void;
  plan: Plan;
  draft: Draft;
  actions: DraftActions;
  onTechnique: () => void;
  onBeside: (what: Beside) => void;
}

/** What can take the place of drawing and reckoning. */
export type Beside = "versions" | "compare";

// A picture of a box is named by its side alone: two of them have to stand in one row with the techniques.
const VIEW_NAMES: Record<string, string> = {
  both: "both",
  section: "section",
  above: "above",
  across_mesial: "mesial",
  across_distal: "distal",
  across_feature: "across",
  through: "section",
  level: "level",
  facial: "from facial",
  lingual: "from lingual",
};

/** What is looked at, and by which technique. */
export function Toolbar({
  views,
  view,
  onView,
  plan,
  draft,
  actions,
  onTechnique,
  onBeside,
}: ToolbarProps) {
  const technique = askAt(plan.stages, TECHNIQUE);
  return (
    <Box
      className="no-print"
      sx={{
        ...apart,
        px: 2,
        py: 0.5,
        display: "flex",
        flexWrap: "wrap",
        columnGap: 1,
        rowGap: 0.5,
      }}
    >
      <Choice
        label="View"
        value={view}
        options={[BOTH, ...views].map((v) => ({ value: v, name: VIEW_NAMES[v] ?? v }))}
        onChange={onView}
      />
      {technique && (
        <Select
          size="small"
          value={String(valueAt(draft.data, TECHNIQUE) ?? technique.options?.[0]?.value)}
          onChange={(event) => {
            onTechnique();
            actions.answer(technique, event.target.value);
          }}
          slotProps={{ input: { "aria-label": technique.name } }}
        >
          {technique.options?.map((option) => (
            <MenuItem key={option.value} value={option.value}>
              {option.name}
            </MenuItem>
          ))}
        </Select>
      )}
      <Box sx={{ ml: "auto", display: "flex", gap: 0.75 }}>
        <Button variant="outlined" onClick={() => onBeside("versions")} sx={{ px: 1 }}>
          Versions
        </Button>
        <Button variant="outlined" onClick={() => onBeside("compare")} sx={{ px: 1 }}>
          Compare
        </Button>
      </Box>
    </Box>
  );
}
