import Box from "@mui/material/Box";
import type { Case } from "../api/client";
import { Choice } from "../shell/Choice";
import { useLights } from "./queries";
import type { Draft, DraftActions } from "./useDraft";

type Layering = NonNullable<NonNullable<Case["school"]>["layering"]>;

const SCHOOLS: { value: Layering; name: string }[] = [
  { value: "wall_first", name: "wall first" },
  { value: "horizontal", name: "horizontal" },
  { value: "oblique", name: "oblique" },
];

interface ToolbarProps {
  views: string[];
  view: string;
  onView: (view: string) => void;
  draft: Draft;
  actions: DraftActions;
  onSchool: () => void;
}

const VIEW_NAMES: Record<string, string> = {
  section: "section",
  above: "from above",
  across_mesial: "mesial box",
  across_distal: "distal box",
};

/** What is looked at, by which school, with which lamp. */
export function Toolbar({ views, view, onView, draft, actions, onSchool }: ToolbarProps) {
  return (
    <Box sx={{ px: 2, py: 0.75, display: "flex", flexWrap: "wrap", gap: 1.5 }}>
      <Choice
        label="View"
        value={view}
        options={views.map((v) => ({ value: v, name: VIEW_NAMES[v] ?? v }))}
        onChange={onView}
      />
      <Choice
        label="Layering school"
        value={draft.data.school?.layering ?? "wall_first"}
        options={SCHOOLS}
        onChange={(value) => {
          onSchool();
          actions.set("school.layering", value);
        }}
      />
      <LampPicker data={draft.data} onPick={(part) => actions.set("light", part)} />
    </Box>
  );
}

function LampPicker({ data, onPick }: { data: Case; onPick: (part: unknown) => void }) {
  const lights = useLights();
  if (!lights.data) return null;
  const options = lights.data.map((l) => ({ value: l.name, name: l.name }));
  return (
    <Choice
      label="Lamp"
      value={data.light.name ?? ""}
      options={options}
      onChange={(name) => onPick(lights.data.find((l) => l.name === name)?.case_part)}
    />
  );
}
