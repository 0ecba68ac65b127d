import { hashKey } from "@tanstack/react-query";
import { useEffect, useMemo, useReducer } from "react";
import type { Case } from "../api/client";
import { forgetKept, keep, keptAs } from "../shell/kept";
import { numberIn } from "../shell/numbers";
import { type CasePath, type CaseValue, valueAt, withValue } from "./paths";

export type Known = "measured" | "estimated";

/** The draft on the bench: the case as typed, and the text that stands in each field. */
export interface Draft {
  data: Case;
  texts: Record<string, string>;
}

export interface DraftActions {
  /** Marks the start of a gesture: what follows is undone as one. */
  begin: () => void;
  type: (path: string, text: string) => void;
  /** Takes words as they are typed, within the gesture at hand. */
  write: (path: string, words: string) => void;
  /** Sets a value; what lies at further paths within it is estimated. */
  set: <Path extends CasePath>(path: Path, value: CaseValue<Path>, estimated?: CasePath[]) => void;
  /** Answers what a plan asks, at the path that it asks for. */
  answer: (asked: Asked, value: Answer) => void;
  replace: (data: Case) => void;
  toggleKnown: (path: string) => void;
  markMeasured: (path: string) => void;
  /** Takes back what the gesture at hand has changed. */
  revert: () => void;
  undo: () => void;
  redo: () => void;
}

/** What a plan asks for, or can be compared by. */
interface Asked {
  path: string;
}

export type Answer = string | number | boolean | string[] | object | null | undefined;

/** Whether there is anything to undo or to redo. */
export interface Reach {
  canUndo: boolean;
  canRedo: boolean;
}

interface History {
  past: Draft[];
  now: Draft;
  future: Draft[];
}

type Change =
  | { kind: "begin" | "undo" | "redo" | "revert" }
  | { kind: "type"; path: string; text: string }
  | { kind: "write"; path: string; words: string }
  | { kind: "set"; path: string; value: unknown; estimated?: string[] }
  | { kind: "replace"; data: Case }
  | { kind: "known"; path: string; known?: Known };

/** Returns what tells a case from another, whatever the order of its keys: without what the server puts in of the practice,
 * rules, stock and place. */
export function ownKey(data: Case): string {
  return hashKey([{ ...data, practice_settings: {}, stock: [], place: "elsewhere" }]);
}

/** Returns text as a number where it is one; anything else goes to the server as it is typed. */
function meant(text: string): number | string | null {
  if (text.trim() === "") return null;
  const number = numberIn(text);
  return Number.isFinite(number) ? number : text;
}

function kept({ past, now }: History): Draft[] {
  return past.at(-1) === now ? past : [...past, now];
}

/** Returns a case that tells how its values are known, after one was set: nothing of those that went with it. */
function retold(
  data: Case,
  { path, estimated = [] }: { path: string; estimated?: string[] },
): Case {
  const known = Object.entries(data.provenance ?? {}).filter(
    ([at]) => !at.startsWith(`${path}[`) || valueAt(data, at) !== undefined,
  );
  if (known.length === Object.keys(data.provenance ?? {}).length && estimated.length === 0)
    return data;
  const told = estimated.map((at): [string, Known] => [at, "estimated"]);
  return { ...data, provenance: Object.fromEntries([...known, ...told]) };
}

function changed(history: History, change: Change): History {
  const { past, now, future } = history;
  switch (change.kind) {
    case "begin":
      return { ...history, past: kept(history) };
    case "type": {
      const data = withValue(now.data, change.path, meant(change.text));
      const texts = { ...now.texts, [change.path]: change.text };
      return { past, now: { data, texts }, future: [] };
    }
    case "write": {
      const data = withValue(now.data, change.path, change.words || undefined);
      return { past, now: { ...now, data }, future: [] };
    }
    case "set": {
      const data = withValue(now.data, change.path, change.value);
      return { past: kept(history), now: { ...now, data: retold(data, change) }, future: [] };
    }
    case "replace":
      return { past: kept(history), now: { data: change.data, texts: {} }, future: [] };
    case "known": {
      const other = now.data.provenance?.[change.path] === "estimated" ? "measured" : "estimated";
      const known = change.known ?? other;
      const provenance: Case["provenance"] = { ...now.data.provenance, [change.path]: known };
      return {
        past: kept(history),
        now: { ...now, data: { ...now.data, provenance } },
        future: [],
      };
    }
    case "revert": {
      const before = past.at(-1);
      return before ? { past: past.slice(0, -1), now: before, future: [] } : history;
    }
    case "undo": {
      // A gesture that changed nothing left the draft itself on the stack.
      const earlier = past.filter((d) => d !== now);
      const back = earlier.at(-1);
      return back ? { past: earlier.slice(0, -1), now: back, future: [now, ...future] } : history;
    }
    case "redo": {
      const [next, ...rest] = future;
      return next ? { past: kept(history), now: next, future: rest } : history;
    }
  }
}

/** A draft as this tab keeps it, and the case that it was begun from. */
interface KeptDraft {
  from: string;
  draft: Draft;
}

/** Returns the history that a Bench begins with: what was changed before a reload can be undone as one. */
function begun({ start, name }: { start: Case; name: string }): History {
  const now: Draft = { data: start, texts: {} };
  const kept = keptAs<KeptDraft>(name);
  if (kept?.from !== ownKey(start)) return { past: [], now, future: [] };
  return { past: [now], now: kept.draft, future: [] };
}

/** Holds the draft with its history; it outlives a reload, under a name, as long as the same case is saved. */
export function useDraft(start: Case, name: string): [Draft, DraftActions, Reach] {
  const [history, dispatch] = useReducer(changed, { start, name }, begun);
  const { now } = history;
  useEffect(() => {
    if (ownKey(now.data) === ownKey(start)) forgetKept(name);
    else keep(name, { from: ownKey(start), draft: now } satisfies KeptDraft);
  }, [name, now, start]);
  const actions = useMemo<DraftActions>(
    () => ({
      begin: () => dispatch({ kind: "begin" }),
      type: (path, text) => dispatch({ kind: "type", path, text }),
      write: (path, words) => dispatch({ kind: "write", path, words }),
      set: (path, value, estimated) => dispatch({ kind: "set", path, value, estimated }),
      answer: ({ path }, value) => dispatch({ kind: "set", path, value }),
      replace: (data) => dispatch({ kind: "replace", data }),
      toggleKnown: (path) => dispatch({ kind: "known", path }),
      markMeasured: (path) => dispatch({ kind: "known", path, known: "measured" }),
      revert: () => dispatch({ kind: "revert" }),
      undo: () => dispatch({ kind: "undo" }),
      redo: () => dispatch({ kind: "redo" }),
    }),
    [],
  );
  const can = {
    canUndo: history.past.some((d) => d !== history.now),
    canRedo: history.future.length > 0,
  };
  return [now, actions, can];
}

export function textOf(draft: Draft, path: string): string {
  const typed = draft.texts[path];
  if (typed !== undefined) return typed;
  const value = valueAt(draft.data, path);
  return typeof value === "number" ? String(value) : "";
}

export function knownOf(draft: Draft, path: string): Known {
  return draft.data.provenance?.[path] === "estimated" ? "estimated" : "measured";
}
