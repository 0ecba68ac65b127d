import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Snackbar from "@mui/material/Snackbar";
import useMediaQuery from "@mui/material/useMediaQuery";
import type { Theme } from "@mui/material/styles";
import { useState } from "react";
import { useParams } from "react-router";
import type { Drawing, Plan, Schemas } from "../api/client";
import { Glimpses, GlimpsesContext } from "../drawing/glimpses";
import { Newest } from "../shell/newest";
import { Trouble } from "../shell/Trouble";
import { Waiting } from "../shell/Waiting";
import { apart, paper } from "../theme/tokens";
import { Compare } from "./Compare";
import { FieldStrip } from "./FieldStrip";
import { KeyHelp } from "./KeyHelp";
import { NoPlan } from "./NoPlan";
import { Picture } from "./Picture";
import { Side } from "./Side";
import { StageRail } from "./StageRail";
import { Tape } from "./Tape";
import { TitleLine } from "./TitleLine";
import { type Beside, Toolbar } from "./Toolbar";
import { Versions } from "./Versions";
import { Wanted } from "./Wanted";
import { useRestoration } from "./queries";
import { SHADE, askAt } from "./told";
import { type AtHand, useAtHand } from "./useAtHand";
import { type Draft, type DraftActions, type Reach, useDraft } from "./useDraft";
import { useOnePage } from "./useOnePage";
import { usePlansInTurn } from "./usePlansInTurn";
import { type Previewed, usePreview } from "./usePreview";
import { useUndoKeys } from "./useUndoKeys";

type Restoration = Schemas["RestorationOut"];

/** Plans one restoration: drawing, reckoning and tape follow what is measured and chosen. */
export default function BenchView() {
  const id = Number(useParams().restorationId);
  const restoration = useRestoration(id);
  if (restoration.isPending) return <Waiting />;
  if (restoration.isError)
    return <Trouble error={restoration.error} again={() => void restoration.refetch()} />;
  return <Bench key={id} restoration={restoration.data} />;
}

function inWords({ path, got, allowed }: Schemas["ProblemOut"]): string {
  return `${path}: ${got}? Allowed: ${allowed}`;
}

function Bench({ restoration }: { restoration: Restoration }) {
  const [draft, actions, can] = useDraft(restoration.case, `bench ${restoration.id}`);
  useUndoKeys(actions);
  // What was typed before a reload is back, if anything was.
  const [isBack, setIsBack] = useState(can.canUndo);
  const [previews] = useState(() => new Newest());
  const [glimpses] = useState(() => new Glimpses(previews));
  const preview = usePreview(draft.data, previews);
  const { told, later } = usePlansInTurn(preview, glimpses);
  const { plan, drawing } = preview.good ?? {};
  const hand = useAtHand(plan, restoration.case, preview.problems, actions);
  const page = useOnePage<HTMLDivElement>();
  const isWide = useMediaQuery((theme: Theme) => theme.breakpoints.up("md"));
  if (!plan || !drawing)
    return (
      <Unplanned restoration={restoration} preview={preview} draft={draft} actions={actions} />
    );
  const shared = { restoration, plan, drawing, preview, draft, actions, hand };
  return (
    <GlimpsesContext value={glimpses}>
      <Box ref={page} sx={LAYOUT}>
        <StageRail plan={later ?? plan} selected={hand.stage} onSelect={hand.setStage} />
        <KeyHelp open={hand.isHelping} onClose={() => hand.setIsHelping(false)} />
        <Snackbar
          open={isBack}
          autoHideDuration={BACK_MS}
          onClose={() => setIsBack(false)}
          message="Changes that were not saved are back."
          action={
            <Button
              color="inherit"
              onClick={() => {
                setIsBack(false);
                actions.replace(restoration.case);
              }}
            >
              Discard
            </Button>
          }
        />
        {hand.beside ? (
          <Aside {...shared} beside={hand.beside} />
        ) : (
          <>
            <Middle {...shared} can={can} hasWanted={!isWide} />
            <Side {...shared} told={told ?? plan} hasWanted={isWide} />
          </>
        )}
        <Box
          sx={{
            gridColumn: { md: "1 / -1" },
            "@media print": { gridColumn: "1 / -1" },
            minWidth: 0,
          }}
        >
          <Tape
            steps={(later ?? plan).steps}
            brackets={(later ?? plan).brackets ?? []}
            stage={hand.stage}
            increment={hand.increment}
            lit={hand.figure?.steps ?? NONE}
            onPick={hand.pickStep}
            onPoint={hand.setPointed}
          />
        </Box>
      </Box>
    </GlimpsesContext>
  );
}

const BACK_MS = 12_000;
const NONE: readonly string[] = [];

const LAYOUT = {
  "@media print": { page: "bench" },
  flex: { xs: 1, md: "none" },
  display: "grid",
  gridTemplateColumns: {
    xs: "minmax(0, 1fr)",
    md: "minmax(0, 1fr) 326px",
    lg: "200px minmax(0, 1fr) 326px",
  },
  gridTemplateRows: { md: "auto minmax(0, 1fr) 160px", lg: "minmax(0, 1fr) 160px" },
  height: { md: "calc(100dvh - 50px)" },
  minHeight: 0,
} as const;

interface OfBench {
  restoration: Restoration;
  plan: Plan;
  drawing: Drawing;
  preview: Previewed;
  draft: Draft;
  actions: DraftActions;
  hand: AtHand;
}

/** Why there is no plan yet. */
function Unplanned(props: Pick<OfBench, "restoration" | "preview" | "draft" | "actions">) {
  const { restoration, preview, draft, actions } = props;
  const { problems, refusal, error } = preview;
  if (error || problems.length > 0)
    return <Trouble error={error ?? new Error(problems.map(inWords).join("; "))} />;
  if (!refusal) return <Waiting text="Planning" />;
  return (
    <NoPlan
      restoration={restoration}
      refusal={refusal}
      draft={draft}
      actions={actions}
      problems={problems}
    />
  );
}

/** What takes the place of the drawing and what stands beside it. */
function Aside({ restoration, plan, draft, actions, hand, beside }: OfBench & { beside: Beside }) {
  const close = () => hand.setBeside(null);
  if (beside === "versions")
    return <Versions restoration={restoration} onTake={actions.replace} onClose={close} />;
  return (
    <Compare
      restorationId={restoration.id}
      data={draft.data}
      plan={plan}
      onTake={(variant) =>
        variant.isWhole ? actions.replace(variant.data) : actions.answer(variant, variant.value)
      }
      onClose={close}
    />
  );
}

interface MiddleProps extends OfBench {
  can: Reach;
  /** Whether what is wanted before work may start is told here. */
  hasWanted: boolean;
}

/** Whose tooth it is, the drawing, and the sizes of the part at hand. */
function Middle({ restoration, plan, drawing, preview, can, hasWanted, ...rest }: MiddleProps) {
  const { draft, actions, hand } = rest;
  const others = preview.problems.filter((p) => !p.path.startsWith("preparation."));
  return (
    <Box sx={{ minWidth: 0, display: "flex", flexDirection: "column", minHeight: 0 }}>
      <TitleLine
        restoration={restoration}
        ready={preview.isCurrent || preview.isWaiting}
        draft={draft.data}
        plan={plan}
      />
      {hasWanted && (
        <Box sx={{ px: 2 }}>
          <Wanted plan={plan} onTell={() => hand.setStage("assess")} />
        </Box>
      )}
      <Toolbar
        views={drawing.sheets.map((s) => s.view)}
        view={hand.view}
        onView={hand.setView}
        plan={plan}
        draft={draft}
        actions={actions}
        onTechnique={() => hand.setIncrement(null)}
        onBeside={hand.setBeside}
      />
      <Picture
        restorationId={restoration.id}
        drawing={drawing}
        plan={plan}
        view={hand.view}
        part={hand.part}
        preview={preview}
        draft={draft}
        actions={actions}
        can={can}
        isColored={hand.stage === SHADE}
        increment={hand.increment}
        onIncrement={hand.setIncrement}
        onToggle={hand.toggleIncrement}
        onPart={hand.setPart}
        onPick={hand.pickField}
      />
      <Box sx={{ ...apart, px: 2, py: 1, borderTop: `1px solid ${paper.rule}` }}>
        <FieldStrip
          parts={hand.parts}
          part={hand.part}
          onPart={hand.setPart}
          draft={draft}
          actions={actions}
          problems={preview.problems}
        />
        {others.map((p) => (
          <Box key={p.path} role="alert" sx={{ color: "error.main", fontSize: 14 }}>
            {askAt(plan.stages, p.path)?.name ?? p.path}: {p.got}? Allowed: {p.allowed}
          </Box>
        ))}
      </Box>
    </Box>
  );
}
