import type { Schemas, Step } from "../api/client";
import type { RunEvent } from "./outbox";

export type RunState = Schemas["StateOut"];

/** The steps that are gone through one by one: the assistant's own run beside them. */
export function stepped(steps: Step[]): Step[] {
  return steps.filter((step) => step.actor !== "assistant");
}

/**
 * Returns the state after an event, as the server will fold it, or null where it does not fit. A new
 * depth is for the server alone: it has to be planned.
 */
export function advanced(steps: Step[], state: RunState, event: RunEvent): RunState | null {
  const sequence = stepped(steps);
  const step = sequence.find((s) => s.id === state.step_id);
  if (!step || !fits(state, step, event)) return null;
  if (event.kind === "mixed" && !isMixed(steps, event)) return null;
  const next = { ...state, revision: state.revision + 1 };
  if (event.kind === "paused")
    return { ...next, paused_at: event.client_wall, paused_why: event.detail?.reason ?? "" };
  if (event.kind === "resumed") {
    const seconds = (Date.parse(event.client_wall) - Date.parse(state.paused_at ?? "")) / 1000;
    return { ...next, paused_at: null, paused_why: "", paused_s: state.paused_s + seconds };
  }
  if (event.kind === "dam_torn") return { ...next, dam_torn: true };
  if (event.kind === "measured") return { ...next, measured: withFigure(state.measured, event) };
  if (event.kind === "mixed") return { ...next, mixes: withMix(state.mixes, event) };
  // What its code says the server reads; here it only counts as sent.
  if (event.kind === "lot_scanned") return next;
  const moved = { ...next, step_began: event.client_wall, paused_s: 0, remedy: "" };
  switch (event.kind) {
    case "step_done":
    case "check_passed":
      return placed(sequence, forward(sequence, moved));
    case "step_back":
      return placed(sequence, back(moved));
    case "check_failed": {
      const failed = { ...moved, remedy: step.check?.remedy ?? "" };
      return placed(sequence, againFrom(sequence, failed, step.check?.back_to ?? null));
    }
    case "got_wet":
    case "mix_too_old": {
      const undone = event.kind === "got_wet" ? step.wet : step.stale;
      const mixes = event.kind === "mix_too_old" ? discarded(state.mixes, step) : state.mixes;
      const undoing = { ...moved, mixes, remedy: undone?.reason.text ?? "" };
      return placed(sequence, detoured(undoing, undone?.redo ?? []));
    }
    case "finished":
      return { ...moved, finished: true };
    case "deeper":
    case "other_matrix":
      return null;
  }
}

function isMixed(steps: Step[], { detail }: RunEvent): boolean {
  return steps.some((step) => step.role === "mix" && step.id === detail?.id);
}

function withMix(mixes: RunState["mixes"], { client_wall, detail }: RunEvent) {
  const isReady = mixes.some((mix) => mix.step_id === detail?.id && !mix.is_discarded);
  if (!detail?.id || isReady) return mixes;
  return [...mixes, { step_id: detail.id, at: client_wall, is_discarded: false }];
}

/** The mixes, with the one that is condensed at a step marked as not used. */
function discarded(mixes: RunState["mixes"], step: Step): RunState["mixes"] {
  const own = (step.within ?? []).map((window) => window.step);
  return mixes.map((mix) => (own.includes(mix.step_id) ? { ...mix, is_discarded: true } : mix));
}

/** The figures with one more, in the place of what was typed to its target before. */
function withFigure(found: RunState["measured"], { step_id, detail }: RunEvent) {
  const { id, value } = detail ?? {};
  if (id == null || value == null) return found;
  const others = found.filter((one) => one.step_id !== step_id || one.id !== id);
  return [...others, { step_id, id, value }];
}

function fits(state: RunState, step: Step, event: RunEvent): boolean {
  if (state.finished || event.step_id !== state.step_id) return false;
  if ((event.kind === "resumed") !== Boolean(state.paused_at)) return false;
  const atEnd = state.index === state.count - 1 && state.detour.length === 0;
  switch (event.kind) {
    case "check_passed":
    case "check_failed":
      return Boolean(step.check);
    case "step_done":
      return !step.check && !atEnd;
    case "step_back":
      return state.index > 0 || state.detour.length > 0;
    case "finished":
      return atEnd && !step.check;
    case "got_wet":
      return Boolean(step.wet);
    case "mix_too_old":
      return Boolean(step.stale);
    case "measured":
      return (step.targets ?? []).some((target) => target.id === event.detail?.id);
    default:
      return true;
  }
}

/** Returns the state with the step that it now stands at. */
function placed(sequence: Step[], state: RunState): RunState {
  const step_id = state.detour[state.detour_at] ?? sequence[state.index]?.id ?? state.step_id;
  return { ...state, step_id };
}

const DAM = "isolate.dam";

function forward(sequence: Step[], state: RunState): RunState {
  if (state.detour.length === 0) {
    const index = Math.min(state.index + 1, state.count - 1);
    return state.dam_torn && renewsDam(sequence.slice(index))
      ? detoured({ ...state, index, dam_torn: false }, [DAM])
      : { ...state, index };
  }
  return state.detour_at + 1 < state.detour.length
    ? { ...state, detour_at: state.detour_at + 1 }
    : { ...state, detour: [], detour_at: 0 };
}

/** Whether a torn dam is renewed now: before the work is looked over, or at once where the dam comes off before. */
function renewsDam(ahead: Step[]): boolean {
  const off = ahead.findIndex((step) => step.id === `${DAM}_off`);
  const on = off < 0 ? ahead : ahead.slice(0, off);
  return Boolean(ahead[0]?.hold) || !on.some((step) => step.hold);
}

function back(state: RunState): RunState {
  if (state.detour.length === 0) return { ...state, index: state.index - 1 };
  return state.detour_at > 0
    ? { ...state, detour_at: state.detour_at - 1 }
    : { ...state, detour: [] };
}

function againFrom(sequence: Step[], state: RunState, stepId: string | null): RunState {
  const ids = sequence.map((step) => step.id);
  const here = ids.indexOf(state.step_id);
  const there = stepId === null ? -1 : ids.indexOf(stepId);
  if (there < 0 || there >= here) return state;
  return state.detour.length > 0
    ? detoured(state, ids.slice(there, here))
    : { ...state, index: there };
}

function detoured(state: RunState, redo: string[]): RunState {
  if (redo.length === 0) return state;
  return { ...state, detour: [...redo, ...state.detour.slice(state.detour_at)], detour_at: 0 };
}
