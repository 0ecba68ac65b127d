import Box from "@mui/material/Box";
import IconButton from "@mui/material/IconButton";
import { type ComponentProps, startTransition, use, useEffect, useMemo, useRef } from "react";
import type { Drawing, Plan } from "../api/client";
import { Dimensions } from "../drawing/Dimensions";
import { GlimpsesContext, useGlimpsedDimensions } from "../drawing/glimpses";
import { LightLines } from "../drawing/LightLines";
import { SheetDrawing } from "../drawing/SheetDrawing";
import { MARGIN, boxOf, frameFor, isBarAbove } from "../drawing/placing";
import { type Sheet, scaleFor } from "../drawing/geometry";
import { useWidth } from "../shell/useWidth";
import { paper } from "../theme/tokens";
import { Portion } from "./Portion";
import { Nib } from "./Nib";
import { Stepping } from "./Stepping";
import { valueAt, withValue } from "./paths";
import { useLightLines } from "./queries";
import type { Draft, DraftActions, Reach } from "./useDraft";
import { useLater, useSettled } from "./useLater";
import type { Previewed } from "./usePreview";

/** Once the page has come to rest. */
const WARM_AFTER_MS = 600;
const LEAST_FOR_BOTH = 560;

interface PictureProps {
  drawing: Drawing;
  plan: Plan;
  view: string;
  preview: Previewed;
  draft: Draft;
  actions: DraftActions;
  can: Reach;
  increment: number | null;
  onIncrement: (order: number | null) => void;
  /** Picks a portion, or lets go of the one that is picked; keeps its identity. */
  onToggle: (order: number) => void;
  /** The length whose field is asked for. */
  onPick: (path: string) => void;
}

/** The drawing with its grips, and what floats over it. */
export function Picture({
  drawing,
  plan,
  view,
  preview,
  draft,
  actions,
  can,
  increment,
  onIncrement,
  onToggle,
  onPick,
}: PictureProps) {
  const [ref, width, height] = useWidth<HTMLDivElement>();
  // Reckoning them takes the server longer than a plan: asked for with a portion in hand.
  const light = useLightLines(draft.data, increment !== null && preview.isCurrent).data ?? [];
  const glimpses = use(GlimpsesContext);
  const second = useLater(drawing);
  const [inset] = useSettled(drawing, preview.isWaiting).sheets;
  const drawn = useMemo(
    () => panesOf(drawing, second, view, width, height),
    [drawing, second, view, width, height],
  );

  const shownFirst = drawn.panes[0]?.sheet;
  const isLow = shownFirst !== undefined && isBarAbove(shownFirst, drawing);
  const first = useRef(draft.data);
  const isAsOpened = preview.isCurrent && draft.data === first.current;
  useEffect(() => {
    if (!isAsOpened) return undefined;
    const timer = setTimeout(() => void glimpses?.warmUp(first.current), WARM_AFTER_MS);
    return () => clearTimeout(timer);
  }, [glimpses, isAsOpened]);

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
        {drawn.panes.map((pane) => {
          const placed = { ...pane, orientation: drawing, height, scale: drawn.scale };
          return (
            <div key={pane.sheet.view} style={{ position: "relative" }}>
              <SheetDrawing
                {...placed}
                hasScaleBar={pane === drawn.panes[0]}
                inset={pane.sheet.view === inset?.view && width > 520 ? inset : undefined}
                selected={increment}
                onSelect={onToggle}
              />
              <svg
                width={pane.width}
                height={height}
                role="group"
                aria-label={`Light and dimensions: ${pane.sheet.title}`}
                // A layer of its own: a grip that moves does not paint the drawing anew.
                style={{
                  position: "absolute",
                  inset: 0,
                  pointerEvents: "none",
                  willChange: "transform",
                }}
              >
                <LightLines
                  lines={light.filter(
                    (line) => line.view === pane.sheet.view && line.order === increment,
                  )}
                  dimensions={width > 520 ? pane.sheet.dimensions : []}
                  sheet={pane.sheet}
                  selected={increment}
                  frame={frameFor(placed)}
                />
                <Stepping
                  plan={plan}
                  order={increment}
                  sheet={pane.sheet}
                  frame={frameFor(placed)}
                />
                <Nib plan={plan} order={increment} sheet={pane.sheet} frame={frameFor(placed)} />
                <NewestDimensions
                  view={pane.sheet.view}
                  // On a phone the labels would hide the tooth; the fields below say the same.
                  dimensions={width > 520 ? pane.sheet.dimensions : []}
                  frame={frameFor(placed)}
                  onPick={onPick}
                  valueOf={(path) => {
                    const value = valueAt(draft.data, path);
                    return typeof value === "number" ? value : null;
                  }}
                  onBegin={actions.begin}
                  onDrag={drag}
                  onChange={(path, value) => actions.type(path, value.toFixed(1))}
                />
              </svg>
            </div>
          );
        })}
      </Box>
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
          bottom: { xs: isLow ? 6 : 36, md: 6 },
          left: { xs: 16, md: 236 },
        }}
      >
        <Portion plan={plan} selected={increment} onSelect={onIncrement} />
      </Box>
      <StalePicture preview={preview} />
    </Box>
  );
}

interface NewestProps extends ComponentProps<typeof Dimensions> {
  view: string;
}

/** The dimensions of the plan, or those of a drag that is on. */
function NewestDimensions({ view, dimensions, ...rest }: NewestProps) {
  const glimpsed = useGlimpsedDimensions(view);
  return <Dimensions dimensions={(dimensions.length > 0 && glimpsed) || dimensions} {...rest} />;
}

export const BOTH = "both";

interface Pane {
  sheet: Sheet;
  width: number;
}

/** Returns what stands side by side, and the scale that it shares: the section and the view of the whole
 * together, which follows a frame later, or one sheet alone. */
function panesOf(
  drawing: Drawing,
  second: Drawing,
  view: string,
  width: number,
  height: number,
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
  const sheet = find(view) ?? section;
  return { panes: sheet ? [{ sheet, width }] : [], scale: undefined };
}

/** Says why the picture is not of what is typed, and what it shows instead. */
function StalePicture({ preview }: { preview: Previewed }) {
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
