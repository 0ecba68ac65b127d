import { useCallback, useState } from "react";
import type { Case } from "../api/client";
import { valueAt, withValue } from "./paths";

export type Known = "measured" | "estimated";

/** The draft on the bench: the case as typed, and the text that stands in each field. */
export interface Draft {
  data: Case;
  texts: Record<string, string>;
}

export interface DraftActions {
  type: (path: string, text: string) => void;
  set: (path: string, value: unknown) => void;
  toggleKnown: (path: string) => void;
}

/** Returns text as a number where it is one; anything else goes to the server as it is typed. */
function meant(text: string): number | string | null {
  const trimmed = text.trim().replace(",", ".");
  if (trimmed === "") return null;
  const number = Number(trimmed);
  return Number.isFinite(number) ? number : text;
}

export function useDraft(start: Case): [Draft, DraftActions] {
  const [draft, setDraft] = useState<Draft>({ data: start, texts: {} });

  const type = useCallback((path: string, text: string) => {
    setDraft((d) => ({
      data: withValue(d.data, path, meant(text)),
      texts: { ...d.texts, [path]: text },
    }));
  }, []);

  const set = useCallback((path: string, value: unknown) => {
    setDraft((d) => ({ ...d, data: withValue(d.data, path, value) }));
  }, []);

  const toggleKnown = useCallback((path: string) => {
    setDraft((d) => {
      const known = d.data.provenance?.[path] === "estimated" ? "measured" : "estimated";
      return {
        ...d,
        data: { ...d.data, provenance: { ...d.data.provenance, [path]: known } },
      };
    });
  }, []);

  return [draft, { type, set, toggleKnown }];
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
