import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import { type ReactNode, useCallback, useEffect, useRef, useState } from "react";
import { flushSync } from "react-dom";
import { Link, useParams } from "react-router";
import type { Figure, Plan, Schemas, Step } from "../api/client";
import { Trouble } from "../shell/Trouble";
import { Verdict } from "../shell/Verdict";
import { Waiting } from "../shell/Waiting";
import { apart, paper } from "../theme/tokens";
import { Compare } from "./Compare";
import { FieldStrip } from "./FieldStrip";
import { KeyHelp } from "./KeyHelp";
import { HoldTheTip } from "./HoldTheTip";
import { Legend } from "./Legend";
import { MeasureFirst } from "./MeasureFirst";
import { NoPlan } from "./NoPlan";
import { BOTH, Picture } from "./Picture";
import { Checks, Reckoning } from "./Reckoning";
import { ScannedPair } from "./ScannedPair";
import { Shapes } from "./Shapes";
import { StageNotes } from "./StageNotes";
import { StageRail } from "./StageRail";
import { Tape } from "./Tape";
import { type Beside, Toolbar } from "./Toolbar";
import { LIGHT, askAt, stageAsking } from "./told";
import { stepIncrement } from "./increments";
import { useRestoration } from "./queries";
import { Versions } from "./Versions";
import { useBenchKeys } from "./useBenchKeys";
import { TitleLine, isOfPractice } from "./TitleLine";
import { useDraft } from "./useDraft";
import { usePreview } from "./usePreview";
import { Newest } from "../shell/newest";
import { Glimpses, GlimpsesContext, useIsGlimpsing } from "../drawing/glimpses";
import { useLater, useSettled } from "./useLater";
import { useOnePage } from "./useOnePage";
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
  const [draft, actions, can] = useDraft(restoration.case);
  useUndoKeys(actions);
  const page = useOnePage<HTMLDivElement>();
  const [previews] = useState(() => new Newest());
  const [glimpses] = useState(() => new Glimpses(previews));
  const preview = usePreview(draft.data, previews);
  const [stage, setStage] = useState<string | null>(null);
  const [increment, setIncrement] = useState<number | null>(null);
  const [pointed, setPointed] = useState<Step | null>(null);
  const [figure, setFigure] = useState<Figure | null>(null);
  const [view, setView] = useState(BOTH);
  const [beside, setBeside] = useState<Beside | null>(null);
  const [helping, setHelping] = useState(false);
  const made = preview.good;
  // What asks for a path: a stage, or a size of a part.
  const [part, setPart] = useState<string | null>(null);
  const asking = useRef<Pick<Plan, "stages" | "measurements">>({ stages: [], measurements: [] });
  useEffect(() => {
    if (made?.plan) asking.current = made.plan;
  }, [made]);
  // The drawing goes first, its view from above a frame later; then the reckoning; tape and rail once a
  // drag rests.
  const third = useLater(useLater(made));
  const settled = useSettled(third, preview.isWaiting);
  const told = third?.plan ?? made?.plan;
  const later = settled?.plan ?? told;
  // What a drag showed gives way to the plan of the value that it ended at.
  const before = useRef(made);
  useEffect(() => {
    if (preview.isWaiting) return;
    glimpses.clear(before.current === made);
    before.current = made;
  }, [glimpses, made, preview.isWaiting]);
  const count = made?.plan?.increments.length ?? 0;
  useBenchKeys({
    onIncrement: (by) => setIncrement((order) => stepIncrement(order, by, count)),
    onStage: (place) => {
      const asked = made?.plan?.stages[place]?.id ?? null;
      setStage((now) => (asked === now ? null : asked));
      wanted.current = FIRST;
    },
    onMeasured: actions.markMeasured,
    onCompare: () => setBeside((now) => (now === "compare" ? null : "compare")),
    onHelp: () => setHelping(true),
  });
  // A stage that was opened by a key or a length is filled in: the focus goes to what is wanted of it.
  const wanted = useRef<string | null>(null);
  useEffect(() => {
    if (stage && wanted.current) focusIn(stage, wanted.current);
    wanted.current = null;
  }, [stage]);
  const pickField = useCallback((path: string) => {
    const { stages, measurements } = asking.current;
    const size = measurements.find((one) => one.path === path);
    // Its field has to be there to be gone to.
    if (size) flushSync(() => setPart(size.part));
    const field = document.querySelector<HTMLElement>(fieldAt(path));
    if (field) field.focus();
    else {
      wanted.current = fieldAt(path);
      setStage(stageAsking(stages, path)?.id ?? null);
    }
  }, []);
  const toggleIncrement = useCallback(
    (order: number) => setIncrement((now) => (now === order ? null : order)),
    [],
  );
  const pickStep = useCallback((step: Step) => setIncrement(step.increment ?? null), []);
  const shown = pointed?.increment ?? onlyIncrement(made?.plan, figure) ?? increment;
  const others = preview.problems.filter((p) => !p.path.startsWith("preparation."));
  if (!made?.plan || !made.drawing)
    return preview.error || preview.problems.length > 0 ? (
      <Trouble error={preview.error ?? new Error(preview.problems.map(inWords).join("; "))} />
    ) : preview.refusal ? (
      <NoPlan
        restoration={restoration}
        refusal={preview.refusal}
        draft={draft}
        actions={actions}
        problems={preview.problems}
      />
    ) : (
      <Waiting text="Planning" />
    );
  return (
    <GlimpsesContext value={glimpses}>
      <Box
        ref={page}
        sx={{
          "@media print": { page: "bench" },
          flex: { xs: 1, md: "none" },
          display: "grid",
          gridTemplateColumns: {
            xs: "minmax(0, 1fr)",
            md: "minmax(0, 1fr) 326px",
            lg: "200px 1fr 326px",
          },
          gridTemplateRows: { md: "auto minmax(0, 1fr) 160px", lg: "minmax(0, 1fr) 160px" },
          height: { md: "calc(100dvh - 50px)" },
          minHeight: 0,
        }}
      >
        <StageRail plan={later ?? made.plan} selected={stage} onSelect={setStage} />
        <KeyHelp open={helping} onClose={() => setHelping(false)} />
        {beside === "compare" ? (
          <Compare
            restorationId={restoration.id}
            data={draft.data}
            plan={made.plan}
            onTake={(variant) =>
              variant.isWhole
                ? actions.replace(variant.data)
                : actions.answer(variant, variant.value)
            }
            onClose={() => setBeside(null)}
          />
        ) : beside === "versions" ? (
          <Versions
            restoration={restoration}
            onTake={actions.replace}
            onClose={() => setBeside(null)}
          />
        ) : (
          <>
            <Box sx={{ minWidth: 0, display: "flex", flexDirection: "column", minHeight: 0 }}>
              <TitleLine
                restoration={restoration}
                ready={preview.isCurrent || preview.isWaiting}
                draft={draft.data}
                plan={made.plan}
              />
              <Wanted plan={made.plan} onTell={() => setStage("assess")} />
              <Toolbar
                views={made.drawing.sheets.map((s) => s.view)}
                view={view}
                onView={setView}
                plan={made.plan}
                draft={draft}
                actions={actions}
                onTechnique={() => setIncrement(null)}
                onBeside={setBeside}
              />
              <Picture
                drawing={made.drawing}
                plan={made.plan}
                view={view}
                preview={preview}
                draft={draft}
                actions={actions}
                can={can}
                increment={shown}
                onIncrement={setIncrement}
                onToggle={toggleIncrement}
                onPick={pickField}
              />
              <Box sx={{ ...apart, px: 2, py: 1, borderTop: `1px solid ${paper.rule}` }}>
                <FieldStrip
                  measurements={made.plan.measurements}
                  draft={draft}
                  actions={actions}
                  problems={preview.problems}
                  part={part}
                  onPart={setPart}
                />
                {others.map((p) => (
                  <Box key={p.path} role="alert" sx={{ color: "error.main", fontSize: 14 }}>
                    {askAt(made.plan?.stages ?? [], p.path)?.name ?? p.path}: {p.got}? Allowed:{" "}
                    {p.allowed}
                  </Box>
                ))}
              </Box>
            </Box>
            <Aside isBusy={preview.isWaiting || told !== made.plan}>
              {stage && (
                <StageNotes
                  restorationId={restoration.id}
                  plan={made.plan}
                  stage={stage}
                  draft={draft}
                  actions={actions}
                  problems={preview.problems}
                  increment={shown}
                  onIncrement={toggleIncrement}
                  onClose={() => setStage(null)}
                />
              )}
              <Box
                sx={{
                  opacity: preview.isCurrent || preview.isWaiting ? 1 : 0.5,
                  "& > *": apart,
                }}
              >
                <Reckoning plan={told ?? made.plan} step={pointed} onPoint={setFigure} />
                <MeasureFirst
                  data={draft.data}
                  isSettled={preview.isCurrent && !preview.isWaiting}
                  onMeasured={actions.markMeasured}
                />
                <HoldTheTip
                  data={draft.data}
                  isSettled={preview.isCurrent && !preview.isWaiting}
                  onHold={(part) => actions.set(LIGHT, part)}
                />
                <Legend sheets={made.drawing.sheets} />
                <Shapes data={draft.data} isSettled={preview.isCurrent && !preview.isWaiting} />
                <ScannedPair
                  data={draft.data}
                  problems={preview.problems}
                  onScan={(scan) => actions.set("preparation.scan", scan)}
                />
                <HouseChanged missing={restoration.missing} />
                <Checks plan={told ?? made.plan} />
              </Box>
            </Aside>
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
            steps={(later ?? made.plan).steps}
            brackets={(later ?? made.plan).brackets ?? []}
            stage={stage}
            increment={shown}
            lit={figure?.steps ?? NONE}
            onPick={pickStep}
            onPoint={setPointed}
          />
        </Box>
      </Box>
    </GlimpsesContext>
  );
}

/** What stands beside the drawing; busy while it is not yet of what is typed or dragged. */
function Aside({ isBusy, children }: { isBusy: boolean; children: ReactNode }) {
  const isGlimpsing = useIsGlimpsing();
  return (
    <Box
      component="aside"
      aria-label="Summary"
      aria-busy={isBusy || isGlimpsing}
      sx={{
        borderLeft: { md: `1px solid ${paper.rule}` },
        bgcolor: paper.sheet,
        px: 2,
        py: 1,
        overflow: "auto",
        contain: "content",
        willChange: "transform",
      }}
    >
      {children}
    </Box>
  );
}

const NONE: readonly string[] = [];
const FIRST = "select, input, button[aria-pressed]";

function fieldAt(path: string): string {
  return `[data-path="${path}"]`;
}

/** Moves the focus to what is wanted of a stage's notes; to the button that closes them where that is not. */
function focusIn(stage: string, what: string) {
  const notes = document.querySelector(`[data-stage-notes=${stage}]`);
  (notes?.querySelector<HTMLElement>(what) ?? notes?.querySelector("button"))?.focus();
}

/** Returns the increment that a figure is about, if it is about one. */
function onlyIncrement(plan: Plan | null | undefined, figure: Figure | null): number | null {
  const of = plan?.steps.filter((step) => figure?.steps?.includes(step.id)) ?? [];
  const [first, ...rest] = new Set(of.map((step) => step.increment ?? null));
  return rest.length === 0 ? (first ?? null) : null;
}

/** What the practice has set otherwise since the plan was saved. */
function HouseChanged({ missing }: { missing: Schemas["MissingOut"][] }) {
  return (
    <Box component="ul" sx={{ listStyle: "none", m: 0, p: 0 }}>
      {missing.filter(isOfPractice).map((m) => (
        <Verdict key={m.code} verdict="caution" text={`${m.text}.`}>
          <Link to="/rules" style={{ color: "inherit" }}>
            rules
          </Link>
        </Verdict>
      ))}
    </Box>
  );
}

/** What must be told before work may start. */
function Wanted({ plan, onTell }: { plan: Plan; onTell: () => void }) {
  if (plan.may_start) return null;
  return (
    <Box
      role="status"
      aria-label="Before work may start"
      sx={{
        mx: 2,
        mt: 1,
        px: 1.5,
        py: 0.5,
        display: "flex",
        flexWrap: "wrap",
        gap: 1,
        alignItems: "center",
        border: `2px solid ${paper.brick}`,
        color: paper.brick,
        fontWeight: 700,
      }}
    >
      <Box sx={{ flex: 1, minWidth: 220 }}>
        {plan.wanted_before.map((reason) => reason.text).join(" ")}
      </Box>
      <Button variant="outlined" onClick={onTell}>
        Tell it
      </Button>
    </Box>
  );
}
