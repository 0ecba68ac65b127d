import { type SetStateAction, useCallback, useEffect, useMemo, useRef, useState } from "react";
import { flushSync } from "react-dom";
import type { Case, Figure, Plan, Problem, Step } from "../api/client";
import { BOTH } from "./Picture";
import type { Beside } from "./Toolbar";
import { stepIncrement } from "./increments";
import { LAMP, type Part, partAtHand, partsOf } from "./parts";
import { LIGHT, stageAsking } from "./told";
import type { DraftActions } from "./useDraft";
import { useBenchKeys } from "./useBenchKeys";

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

/** Brings to hand what has just been cut, or the curing light once a plan waits for one. */
function useNewcomers(
  parts: readonly Part[] | null,
  problems: readonly Problem[],
  onPart: (part: string) => void,
) {
  const isLampWanted = problems.some((p) => p.path === LIGHT);
  const names = parts && [...parts.map(({ name }) => name), ...(isLampWanted ? [LAMP] : [])];
  const [known, setKnown] = useState<string[] | null>(null);
  if (names && names.join() !== known?.join()) {
    setKnown(names);
    const [fresh, ...more] = names.filter((name) => known && !known.includes(name));
    if (fresh && more.length === 0) onPart(fresh);
  }
}

/** Returns what is at hand of a plan: a stage, a part, an increment, what is pointed at and what stands beside the drawing;
 * and how each is picked, by keys too. */
export function useAtHand(
  plan: Plan | null | undefined,
  opened: Case,
  problems: readonly Problem[],
  actions: DraftActions,
) {
  const [stage, setOpened] = useState<string | null>(null);
  const [increment, setIncrement] = useState<number | null>(null);
  const [pointed, setPointed] = useState<Step | null>(null);
  const [figure, setFigure] = useState<Figure | null>(null);
  const [view, setView] = useState(BOTH);
  const [beside, setBeside] = useState<Beside | null>(null);
  const [isHelping, setIsHelping] = useState(false);
  const [part, setPart] = useState<string | null>(null);
  // A size that was measured and saved meanwhile leaves the part at hand where it is.
  const [first] = useState(opened);
  const measurements = plan?.measurements;
  const parts = useMemo(() => partsOf(measurements ?? [], problems), [measurements, problems]);
  useNewcomers(plan ? parts : null, problems, setPart);
  const asking = useRef<Pick<Plan, "stages" | "measurements">>({ stages: [], measurements: [] });
  useEffect(() => {
    if (plan) asking.current = plan;
  }, [plan]);
  const count = plan?.increments.length ?? 0;
  const setStage = useCallback((next: SetStateAction<string | null>) => {
    setOpened(next);
    // The key figures move: none is left under the pointer to tell that it is gone.
    setFigure(null);
  }, []);
  // A stage that was opened by a key or a length is filled in: the focus goes to what is wanted of it.
  const wanted = useRef<string | null>(null);
  useEffect(() => {
    if (stage && wanted.current) focusIn(stage, wanted.current);
    wanted.current = null;
  }, [stage]);
  useBenchKeys({
    onIncrement: (by) => setIncrement((order) => stepIncrement(order, by, count)),
    onStage: (place) => {
      const asked = plan?.stages[place]?.id ?? null;
      setStage((now) => (asked === now ? null : asked));
      wanted.current = FIRST;
    },
    onMeasured: actions.markMeasured,
    onCompare: () => setBeside((now) => (now === "compare" ? null : "compare")),
    onHelp: () => setIsHelping(true),
  });
  const pickField = useCallback(
    (path: string) => {
      const size = asking.current.measurements.find((one) => one.path === path);
      // Its field has to be there to be gone to.
      if (size) flushSync(() => setPart(size.part));
      const field = document.querySelector<HTMLElement>(fieldAt(path));
      if (field) field.focus();
      else {
        wanted.current = fieldAt(path);
        setStage(stageAsking(asking.current.stages, path)?.id ?? null);
      }
    },
    [setStage],
  );
  const toggleIncrement = useCallback(
    (order: number) => setIncrement((now) => (now === order ? null : order)),
    [],
  );
  const pickStep = useCallback((step: Step) => setIncrement(step.increment ?? null), []);
  return {
    stage,
    setStage,
    increment: pointed?.increment ?? onlyIncrement(plan, figure) ?? increment,
    setIncrement,
    toggleIncrement,
    pickStep,
    pointed,
    setPointed,
    figure,
    setFigure,
    view,
    setView,
    beside,
    setBeside,
    isHelping,
    setIsHelping,
    parts,
    part: partAtHand(parts, part, first),
    setPart,
    pickField,
  };
}

export type AtHand = ReturnType<typeof useAtHand>;
