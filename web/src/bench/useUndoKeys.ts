import { useEffect } from "react";
import { isTyped } from "../shell/typed";
import type { DraftActions } from "./useDraft";

/** Ctrl or Cmd with Z undoes, with Shift too it redoes, outside text fields. */
export function useUndoKeys({ undo, redo }: DraftActions) {
  useEffect(() => {
    function pressed(event: KeyboardEvent) {
      if (isTyped(event.target) || event.key.toLowerCase() !== "z") return;
      if (!event.ctrlKey && !event.metaKey) return;
      event.preventDefault();
      if (event.shiftKey) redo();
      else undo();
    }
    window.addEventListener("keydown", pressed);
    return () => window.removeEventListener("keydown", pressed);
  }, [undo, redo]);
}
