import Box from "@mui/material/Box";
import IconButton from "@mui/material/IconButton";
import {
  type ComponentProps,
  startTransition,
  use,
  useCallback,
  useEffect,
  useMemo,
  useRef,
  useState,
} from "react";
import type { Drawing, Plan, Schemas } from "../api/client";
import { ColorFace, worstOf } from "../drawing/ColorFace";
import { Dimensions } from "../drawing/Dimensions";
import { GlimpsesContext, useGlimpsedDimensions } from "../drawing/glimpses";
import { LightLines } from "../drawing/LightLines";
import { SheetDrawing } from "../drawing/SheetDrawing";
import { drawnOver } from "../drawing/paint";
import { MARGIN, type Placed, boxOf, frameFor, isBarAbove } from "../drawing/placing";
import { type Sheet, scaleFor } from "../drawing/geometry";
import { useWidth } from "../shell/useWidth";
import { paper } from "../theme/tokens";
import { ColorHere } from "./ColorHere";
import { OtherWays } from "./Options";
import { Portion } from "./Portion";
import { Nib } from "./Nib";
import { Stepping } from "./Stepping";
import { partWith } from "./parts";
import { valueAt, withValue } from "./paths";
import { useColorFace, useLightLines } from "./queries";
import type { Draft, DraftActions, Reach } from "./useDraft";
import { useLater, useSettled } from "./useLater";
import type { Previewed } from "./usePreview";

/** Once the page has come to rest. */
const WARM_AFTER_MS = 600;
const LEAST_FOR_BOTH = 560;
const LEAST_FOR_LENGTHS = 520;

interface PictureProps {
  restorationId: number;
  drawing: Drawing;
  plan: Plan;
  view: string;
  /** The part whose lengths are drawn. */
  part: string;
  preview: Previewed;
  draft: Draft;
  actions: DraftActions;
  can: Reach;
  /** Whether the color is shown place by place, where it is known. */
  isColored: boolean;
  increment: number | null;
  onIncrement: (order: number | null) => void;
  /** Picks a portion, or lets go of the one that is picked; keeps its identity. */
  onToggle: (order: number) => void;
  onPart: (part: string) => void;
  /** The length whose field is asked for. */
  onPick: (path: string) => void;
}

/** The drawing with its grips, and what floats over it. */
export function Picture(props: PictureProps) {
  const { drawing, plan, view, part, preview, draft, actions, increment, onPart } = props;
  const [ref, width, height] = useWidth<HTMLDivElement>();
  const glimpses = use(GlimpsesContext);
  const second = useLater(drawing);
  const [inset] = useSettled(drawing, preview.isWaiting).sheets;
  const colored = useColored(props);
  const drawn = useMemo(
    () => panesOf(drawing, second, view, width, height, colored?.face.view),
    [drawing, second, view, width, height, colored?.face.view],
  );
  // On a phone the labels would hide the tooth; the fields below say the same.
  const isWide = width > LEAST_FOR_LENGTHS;
  const { measurements } = plan;
  const lengths = useMemo(
    () => (isWide ? pathsDrawn(drawing, measurements, part) : []),
    [isWide, drawing, measurements, part],
  );
  const pickPart = useCallback(
    (path: string) => {
      const of = partWith(measurements, path);
      if (of) onPart(of);
    },
    [measurements, onPart],
  );
  useWarmGlimpses(draft, preview.isCurrent);

  // With nothing wrong on the page, a drag is followed without it.
  function drag(path: string, value: number) {
    const held = { path, text: value.toFixed(1) };
    const giveUp = () => actions.type(path, held.text);
    const data = withValue(draft.data, path, value);
    if (glimpses?.isReady && preview.isCurrent) void glimpses.ask({ data, held, giveUp });
    else startTransition(giveUp);
  }

  return (
    <Box
      ref={ref}
      sx={{
        position: "relative",
        flex: 1,
        minHeight: { xs: 340, md: 200 },
        overflow: "hidden",
      }}
    >
      <Box
        sx={{
          position: "absolute",
          inset: 0,
          display: "flex",
          opacity: preview.isCurrent || preview.isWaiting ? 1 : 0.45,
        }}
      >
        {drawn.panes.map((pane) => (
          <Pane
            key={pane.sheet.view}
            placed={{ ...pane, orientation: drawing, height, scale: drawn.scale }}
            isFirst={pane === drawn.panes[0]}
            inset={pane.sheet.view === inset?.view && isWide ? inset : undefined}
            plan={plan}
            lengths={lengths}
            draft={draft}
            isCurrent={preview.isCurrent}
            colored={pane.sheet.view === colored?.face.view ? colored : null}
            increment={increment}
            onToggle={props.onToggle}
            onPart={pickPart}
            onPick={props.onPick}
            onBegin={actions.begin}
            onDrag={drag}
            onChange={(path, value) => actions.type(path, value.toFixed(1))}
          />
        ))}
      </Box>
      <Floating
        plan={plan}
        drawing={drawing}
        first={drawn.panes[0]?.sheet}
        colored={colored}
        increment={increment}
        onIncrement={props.onIncrement}
        actions={actions}
        can={props.can}
      />
      <StalePicture
        restorationId={props.restorationId}
        preview={preview}
        draft={draft}
        actions={actions}
      />
    </Box>
  );
}

interface Colored {
  face: Schemas["ColorFace"];
  picked: number;
  onPick: (column: number) => void;
}

/** The color place by place, and which place is told: the worst, until another is pointed at. */
function useColored({ draft, plan, preview, isColored }: PictureProps): Colored | null {
  const isWanted = isColored && Boolean(plan.color) && preview.isCurrent;
  const face = useColorFace(draft.data, isWanted).data;
  const [pointed, setPointed] = useState<{ face: unknown; column: number } | null>(null);
  if (!isColored || !plan.color || !face) return null;
  const picked = pointed?.face === face ? pointed.column : worstOf(face.columns);
  return { face, picked, onPick: (column) => setPointed({ face, column }) };
}

/** Returns the paths of the lengths that are drawn: those of a part, and what belongs to none. */
function pathsDrawn(
  { sheets }: Drawing,
  measurements: Plan["measurements"],
  part: string,
): string[] {
  const all = sheets.flatMap((sheet) => sheet.dimensions.map((d) => d.case_path));
  return [...new Set(all)].filter((path) => (partWith(measurements, path) ?? part) === part);
}

/** Makes the first glimpse of a drag as quick as those after it, once the page has come to rest. */
function useWarmGlimpses(draft: Draft, isCurrent: boolean) {
  const glimpses = use(GlimpsesContext);
  const first = useRef(draft.data);
  const isAsOpened = isCurrent && draft.data === first.current;
  useEffect(() => {
    if (!isAsOpened) return undefined;
    const timer = setTimeout(() => void glimpses?.warmUp(first.current), WARM_AFTER_MS);
    return () => clearTimeout(timer);
  }, [glimpses, isAsOpened]);
}

interface PaneProps {
  placed: Placed;
  isFirst: boolean;
  inset: Sheet | undefined;
  plan: Plan;
  lengths: readonly string[];
  draft: Draft;
  isCurrent: boolean;
  colored: Colored | null;
  increment: number | null;
  onToggle: (order: number) => void;
  onPart: (path: string) => void;
  onPick: (path: string) => void;
  onBegin: () => void;
  onDrag: (path: string, value: number) => void;
  onChange: (path: string, value: number) => void;
}

/** One view, painted, under what is drawn over it: light, instruments and the lengths of the part at hand. */
function Pane(props: PaneProps) {
  const { placed, isFirst, inset, plan, lengths, draft, colored, increment, ...rest } = props;
  const { sheet } = placed;
  const frame = frameFor(placed);
  // Reckoning them takes the server longer than a plan: asked for with a portion in hand.
  const light = useLightLines(draft.data, increment !== null && rest.isCurrent).data ?? [];
  const dimensions = drawnOver(sheet, lengths);
  return (
    <div style={{ position: "relative" }}>
      <SheetDrawing
        {...placed}
        hasScaleBar={isFirst}
        inset={inset}
        selected={increment}
        onSelect={rest.onToggle}
        lengths={lengths}
        onPart={rest.onPart}
      />
      <svg
        width={placed.width}
        height={placed.height}
        role="group"
        aria-label={`Light and dimensions: ${sheet.title}`}
        // A layer of its own: a grip that moves does not paint the drawing anew.
        style={{ position: "absolute", inset: 0, pointerEvents: "none", willChange: "transform" }}
      >
        <LightLines
          lines={light.filter((line) => line.view === sheet.view && line.order === increment)}
          dimensions={dimensions}
          sheet={sheet}
          selected={increment}
          frame={frame}
          room={placed}
        />
        {colored && <ColorFace {...colored} frame={frame} />}
        <Stepping plan={plan} order={increment} sheet={sheet} frame={frame} />
        <Nib plan={plan} order={increment} sheet={sheet} frame={frame} />
        <NewestDimensions
          dimensions={dimensions}
          lengths={lengths}
          sheet={sheet}
          frame={frame}
          room={placed}
          onPick={rest.onPick}
          valueOf={(path) => {
            const value = valueAt(draft.data, path);
            return typeof value === "number" ? value : null;
          }}
          onBegin={rest.onBegin}
          onDrag={rest.onDrag}
          onChange={rest.onChange}
        />
      </svg>
    </div>
  );
}

interface FloatingProps {
  plan: Plan;
  drawing: Drawing;
  first: Sheet | undefined;
  colored: Colored | null;
  increment: number | null;
  onIncrement: (order: number | null) => void;
  actions: DraftActions;
  can: Reach;
}

/** What floats over the drawing: undo and redo, and the increment in hand, or the color at a place. */
function Floating({ plan, drawing, first, colored, increment, ...rest }: FloatingProps) {
  const { onIncrement, actions, can } = rest;
  const isLow = first !== undefined && isBarAbove(first, drawing);
  const isColorTold = colored !== null && increment === null;
  return (
    <>
      <Box className="no-print" sx={{ position: "absolute", right: 12, top: 4, display: "flex" }}>
        <HistoryButton
          name="Undo"
          d="M3 8h9a4 4 0 010 8H7M7 4L3 8l4 4"
          can={can.canUndo}
          onClick={actions.undo}
        />
        <HistoryButton
          name="Redo"
          d="M15 8H6a4 4 0 000 8h5M11 4l4 4-4 4"
          can={can.canRedo}
          onClick={actions.redo}
        />
      </Box>
      <Box
        className="no-print"
        sx={{
          position: "absolute",
          right: 16,
          // On a phone clear of the scale bar.
          bottom: { xs: isLow || isColorTold ? 6 : 36, md: 6 },
          left: { xs: 16, md: 236 },
        }}
      >
        {isColorTold ? (
          <Box sx={{ display: "flex", justifyContent: "flex-end" }}>
            <ColorHere {...colored} />
          </Box>
        ) : (
          <Portion plan={plan} selected={increment} onSelect={onIncrement} />
        )}
      </Box>
    </>
  );
}

interface NewestProps extends ComponentProps<typeof Dimensions> {
  lengths: readonly string[];
}

/** The dimensions of the plan, or those of a drag that is on. */
function NewestDimensions({ lengths, dimensions, ...rest }: NewestProps) {
  const glimpsed = useGlimpsedDimensions(rest.sheet.view);
  const shown = glimpsed ? drawnOver({ dimensions: glimpsed }, lengths) : dimensions;
  return <Dimensions dimensions={shown} {...rest} />;
}

export const BOTH = "both";

interface Pane {
  sheet: Sheet;
  width: number;
}

/** Returns what stands side by side, and the scale that it shares: the section and the view of the whole
 * together, which follows a frame later, or one sheet alone; where there is no room for both, `narrow` if it is told. */
function panesOf(
  drawing: Drawing,
  second: Drawing,
  view: string,
  width: number,
  height: number,
  narrow?: string,
): { panes: Pane[]; scale: number | undefined } {
  const find = (name: string) => drawing.sheets.find((s) => s.view === name);
  // The section comes first, what is seen of the whole tooth second.
  const [section] = drawing.sheets;
  const whole = second.sheets[1];
  if (view === BOTH && section && whole && width > LEAST_FOR_BOTH) {
    const boxes = [boxOf(section), boxOf(whole)] as const;
    const wide = boxes[0].x1 - boxes[0].x0 + boxes[1].x1 - boxes[1].x0;
    const tall = Math.max(...boxes.map((b) => b.y1 - b.y0));
    const box = { x0: 0, x1: wide, y0: 0, y1: tall };
    const scale = scaleFor(box, width - 2 * MARGIN, height, MARGIN);
    const second = (boxes[1].x1 - boxes[1].x0) * scale + 2 * MARGIN;
    const panes = [
      { sheet: section, width: width - second },
      { sheet: whole, width: second },
    ];
    return { panes, scale };
  }
  const sheet = find(view) ?? (narrow ? find(narrow) : undefined) ?? section;
  return { panes: sheet ? [{ sheet, width }] : [], scale: undefined };
}

type StaleProps = Pick<PictureProps, "restorationId" | "preview" | "draft" | "actions">;

/** Says why the picture is not of what is typed, what it shows instead, and what else would do. */
function StalePicture({ preview, ...own }: StaleProps) {
  const refused = preview.refusal?.requirement.text ?? preview.error?.message;
  const [problem] = preview.problems;
  // A part that was just added has no field yet: what is wrong with it is told here.
  const fields = preview.good?.plan?.measurements.map((one) => one.path) ?? [];
  const isNew = problem?.path.startsWith("preparation.parts") && !fields.includes(problem.path);
  const details = problem && isNew ? `: ${problem.got}? Allowed: ${problem.allowed}.` : ".";
  const wrong = problem && `A measurement can\u2019t be right${details}`;
  const reason = refused ?? wrong;
  if (preview.isCurrent || preview.isWaiting || !reason) return null;
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
      <OtherWays options={preview.refusal?.options ?? []} {...own} />
    </Box>
  );
}

interface HistoryButtonProps {
  name: string;
  d: string;
  can: boolean;
  onClick: () => void;
}

function HistoryButton({ name, d, can, onClick }: HistoryButtonProps) {
  return (
    <IconButton aria-label={name} disabled={!can} onClick={onClick} sx={{ width: 40, height: 40 }}>
      <svg width="18" height="18" viewBox="0 0 18 18" aria-hidden="true">
        <path d={d} fill="none" stroke="currentColor" strokeWidth="1.8" />
      </svg>
    </IconButton>
  );
}
