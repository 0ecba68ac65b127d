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
  const next = { ...state, revision: state.revision + 1 };
  if (event.kind === "paused")
    return { ...next, paused_at: event.client_wall, paused_why: event.detail?.reason ?? "" };
  if (event.kind === "resumed") {
    const seconds = (Date.parse(event.client_wall) - Date.parse(state.paused_at ?? "")) / 1000;
    return { ...next, paused_at: null, paused_why: "", paused_s: state.paused_s + seconds };
  }
  // What its code says the server reads; here it only counts as sent.
  if (event.kind === "lot_scanned") return next;
  const moved = { ...next, step_began: event.client_wall, paused_s: 0, remedy: "" };
  switch (event.kind) {
    case "step_done":
    case "check_passed":
      return placed(sequence, forward(moved));
    case "step_back":
      return placed(sequence, back(moved));
    case "check_failed": {
      const failed = { ...moved, remedy: step.check?.remedy ?? "" };
      return placed(sequence, againFrom(sequence, failed, step.check?.back_to ?? null));
    }
    case "got_wet": {
      const wet = { ...moved, remedy: step.wet?.reason.text ?? "" };
      return placed(sequence, detoured(wet, step.wet?.redo ?? []));
    }
    case "finished":
      return { ...moved, finished: true };
    case "deeper":
      return null;
  }
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
    default:
      return true;
  }
}

/** Returns the state with the step that it now stands at. */
function placed(sequence: Step[], state: RunState): RunState {
  const step_id = state.detour[state.detour_at] ?? sequence[state.index]?.id ?? state.step_id;
  return { ...state, step_id };
}

function forward(state: RunState): RunState {
  if (state.detour.length === 0)
    return { ...state, index: Math.min(state.index + 1, state.count - 1) };
  return state.detour_at + 1 < state.detour.length
    ? { ...state, detour_at: state.detour_at + 1 }
    : { ...state, detour: [], detour_at: 0 };
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
