import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import { useState } from "react";
import { useNavigate, useParams } from "react-router";
import type { Case, Drawing, Plan, Schemas } from "../api/client";
import { Dimensions } from "../drawing/Dimensions";
import { SheetDrawing } from "../drawing/SheetDrawing";
import { useSession } from "../session/queries";
import { Choice } from "../shell/Choice";
import { Trouble } from "../shell/Trouble";
import { useWidth } from "../shell/useWidth";
import { Waiting } from "../shell/Waiting";
import { paper } from "../theme/tokens";
import { FieldStrip } from "./FieldStrip";
import { Portion } from "./Portion";
import { Reckoning } from "./Reckoning";
import { StageNotes } from "./StageNotes";
import { StageRail } from "./StageRail";
import { Tape } from "./Tape";
import {
  type Previewed,
  useLights,
  usePreview,
  useRestoration,
  useSavePlan,
  useStartRun,
} from "./queries";
import { type Draft, type DraftActions, useDraft } from "./useDraft";

type Restoration = Schemas["RestorationOut"];
type Layering = NonNullable<NonNullable<Case["school"]>["layering"]>;

const SCHOOLS: { value: Layering; name: string }[] = [
  { value: "wall_first", name: "wall first" },
  { value: "horizontal", name: "horizontal" },
  { value: "oblique", name: "oblique" },
];

/** Plans one restoration: drawing, reckoning and tape follow what is measured and chosen. */
export default function BenchView() {
  const id = Number(useParams().restorationId);
  const restoration = useRestoration(id);
  if (restoration.isPending) return <Waiting />;
  if (restoration.isError)
    return <Trouble error={restoration.error} again={() => void restoration.refetch()} />;
  return <Bench key={id} restoration={restoration.data} />;
}

function Bench({ restoration }: { restoration: Restoration }) {
  const [draft, actions] = useDraft(restoration.case);
  const preview = usePreview(draft.data);
  const [stage, setStage] = useState<string | null>(null);
  const [increment, setIncrement] = useState<number | null>(null);
  const [view, setView] = useState("section");
  const made = preview.good;
  const others = preview.problems.filter((p) => !p.path.startsWith("preparation."));
  if (!made?.plan || !made.drawing)
    return preview.error ? (
      <Trouble error={preview.error} />
    ) : preview.refusal ? (
      <Trouble error={new Error(preview.refusal.requirement.text)} />
    ) : (
      <Waiting text="Planning" />
    );
  return (
    <Box
      sx={{
        flex: { xs: 1, lg: "none" },
        display: "grid",
        gridTemplateColumns: {
          xs: "minmax(0, 1fr)",
          md: "minmax(0, 1fr) 326px",
          lg: "200px 1fr 326px",
        },
        gridTemplateRows: { lg: "minmax(0, 1fr) 160px" },
        height: { lg: "calc(100dvh - 50px)" },
        minHeight: 0,
      }}
    >
      <StageRail plan={made.plan} selected={stage} onSelect={setStage} />
      <Box sx={{ minWidth: 0, display: "flex", flexDirection: "column", minHeight: 0 }}>
        <TitleLine restoration={restoration} preview={preview} draft={draft.data} />
        <Toolbar
          views={made.drawing.sheets.map((s) => s.view)}
          view={view}
          onView={setView}
          draft={draft}
          actions={actions}
          onSchool={() => setIncrement(null)}
        />
        <Picture
          drawing={made.drawing}
          plan={made.plan}
          view={view}
          preview={preview}
          increment={increment}
          onIncrement={setIncrement}
        />
        <Box sx={{ px: 2, py: 1, borderTop: `1px solid ${paper.rule}` }}>
          <FieldStrip draft={draft} actions={actions} problems={preview.problems} />
          {others.map((p) => (
            <Box key={p.path} role="alert" sx={{ color: "error.main", fontSize: 14 }}>
              {p.path}: {p.got}? Allowed: {p.allowed}
            </Box>
          ))}
        </Box>
      </Box>
      <Box
        component="aside"
        aria-label="Reckoning"
        sx={{
          borderLeft: { md: `1px solid ${paper.rule}` },
          bgcolor: paper.sheet,
          px: 2,
          py: 1,
          overflow: "auto",
        }}
      >
        {stage && <StageNotes plan={made.plan} stage={stage} onClose={() => setStage(null)} />}
        <Reckoning plan={made.plan} data={draft.data} stale={!preview.isCurrent} />
      </Box>
      <Box sx={{ gridColumn: { md: "1 / -1" }, minWidth: 0 }}>
        <Tape
          steps={made.plan.steps}
          stage={stage}
          increment={increment}
          onPick={(step) => setIncrement(step.increment ?? null)}
        />
      </Box>
    </Box>
  );
}

interface TitleProps {
  restoration: Restoration;
  preview: Previewed;
  draft: Case;
}

function TitleLine({ restoration, preview, draft }: TitleProps) {
  const { data: session } = useSession();
  const navigate = useNavigate();
  const save = useSavePlan(restoration.id);
  const start = useStartRun(restoration.id);
  const isDentist = session?.user?.role === "dentist";
  const saved = restoration.plans.at(-1);
  const changed = !saved || JSON.stringify(draft) !== JSON.stringify(restoration.case);
  const ready = preview.isCurrent && preview.good?.plan;

  async function startRun() {
    if (changed) await save.mutateAsync(draft);
    const run = await start.mutateAsync();
    void navigate(`/chair/${run.id}`);
  }

  const failed = save.error ?? start.error;
  return (
    <Box sx={{ px: 2, pt: 1, display: "flex", flexWrap: "wrap", gap: 1, alignItems: "center" }}>
      <Box>
        <Box component="h1" sx={{ m: 0, fontSize: 20, lineHeight: 1.15 }}>
          {restoration.tooth} {draft.restoration.surfaces}{" "}
          <Box component="span" sx={{ fontWeight: 400, fontSize: 16 }}>
            {restoration.tooth_name}
          </Box>
        </Box>
        <Box sx={{ color: "text.secondary", fontSize: 15, lineHeight: 1.2 }}>
          {restoration.patient}
        </Box>
      </Box>
      {restoration.alerts.map((alert) => (
        <Box key={alert} sx={{ color: paper.brick, fontWeight: 700 }}>
          {alert}
        </Box>
      ))}
      <Box sx={{ ml: "auto", display: "flex", gap: 1, alignItems: "center" }}>
        <Box sx={{ fontSize: 14, color: "text.secondary" }} role="status">
          {saved
            ? changed
              ? `changed since plan ${saved.number}`
              : `plan ${saved.number} saved`
            : "not saved"}
        </Box>
        <Button
          variant="outlined"
          disabled={!isDentist || !ready || !changed || save.isPending}
          onClick={() => save.mutate(draft)}
        >
          Save plan
        </Button>
        <Button
          variant="contained"
          disabled={!ready || restoration.status === "done" || (changed && !isDentist)}
          onClick={() => void startRun()}
        >
          {restoration.status === "running" ? "Go on chairside" : "Start chairside"}
        </Button>
      </Box>
      {failed && (
        <Box role="alert" sx={{ color: "error.main", width: "100%" }}>
          {failed.message}
        </Box>
      )}
    </Box>
  );
}

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

function Toolbar({ views, view, onView, draft, actions, onSchool }: ToolbarProps) {
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

interface PictureProps {
  drawing: Drawing;
  plan: Plan;
  view: string;
  preview: Previewed;
  increment: number | null;
  onIncrement: (order: number | null) => void;
}

function Picture({ drawing, plan, view, preview, increment, onIncrement }: PictureProps) {
  const [ref, width, height] = useWidth<HTMLDivElement>();
  const sheet = drawing.sheets.find((s) => s.view === view) ?? drawing.sheets[0];
  if (!sheet) return null;
  return (
    <Box
      ref={ref}
      sx={{
        position: "relative",
        flex: 1,
        minHeight: { xs: 340, md: 400, lg: 200 },
        overflow: "hidden",
      }}
    >
      <Box sx={{ position: "absolute", inset: 0, opacity: preview.isCurrent ? 1 : 0.45 }}>
        <SheetDrawing
          sheet={sheet}
          orientation={drawing}
          width={width}
          height={height}
          selected={increment}
          onSelect={(order) => onIncrement(order === increment ? null : order)}
          overlay={(frame) => (
            <Dimensions
              // On a phone the labels would hide the tooth; the fields below say the same.
              dimensions={width > 520 ? sheet.dimensions : []}
              frame={frame}
              onPick={(path) =>
                document.querySelector<HTMLElement>(`[data-path="${path}"]`)?.focus()
              }
            />
          )}
        />
      </Box>
      <Box
        sx={{
          position: "absolute",
          right: 16,
          bottom: { xs: 36, md: 6 },
          left: { xs: 16, md: 190 },
        }}
      >
        <Portion plan={plan} selected={increment} onSelect={onIncrement} />
      </Box>
      <StalePicture preview={preview} />
    </Box>
  );
}

/** Says why the picture is not of what is typed, and what it shows instead. */
function StalePicture({ preview }: { preview: Previewed }) {
  const refused = preview.refusal?.requirement.text ?? preview.error?.message;
  const wrong = preview.problems.length > 0 ? "A measurement can\u2019t be right." : undefined;
  const reason = refused ?? wrong;
  if (preview.isCurrent || !reason) return null;
  return (
    <Box
      role="alert"
      sx={{
        position: "absolute",
        left: 16,
        right: 16,
        top: 8,
        p: 1,
        bgcolor: paper.sheet,
        border: `1.5px solid ${paper.brick}`,
      }}
    >
      {reason} The picture and the numbers show the last plan that worked.
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
