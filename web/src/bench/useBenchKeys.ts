import { useEffect } from "react";
import { isTyped } from "../shell/typed";

/** What the keys of the bench do, outside text fields. */
export interface BenchKeys {
  onIncrement: (by: number) => void;
  onStage: (place: number) => void;
  onMeasured: (path: string) => void;
  onCompare: () => void;
  onHelp: () => void;
}

export const KEYS: [string, string][] = [
  ["Tab", "to the next handle or field"],
  ["\u2190 \u2192 \u2191 \u2193", "0.1 mm on a handle, 0.5 mm with Shift"],
  ["Enter", "type the length of a handle"],
  ["Esc", "take back what was typed in a field"],
  ["[ ]", "the increment before and after"],
  ["1 \u2013 9, 0", "a stage of the work, and what it asks for"],
  ["M", "the size at hand, or the one to measure first, is measured"],
  ["W", "why: the number at hand"],
  ["C", "compare"],
  ["Ctrl Z", "undo; with Shift, redo"],
  ["?", "these keys"],
];

/** The size that a key is about: of the grip in focus, else the one that should be measured first. */
function pathAtHand(): string | undefined {
  const grip = document.activeElement?.getAttribute("data-grip");
  const first = document.querySelector<HTMLElement>("[data-measure-first]");
  return grip ?? first?.dataset.measureFirst;
}

/** Opens the reasons of the number that is pointed at or in focus, else of the first. */
function openWhy() {
  const figures = [...document.querySelectorAll<HTMLElement>("[data-figure]")];
  const at = figures.find((f) => f.contains(document.activeElement) || f.matches(":hover"));
  (at ?? figures[0])?.querySelector<HTMLElement>("button")?.click();
}

export function useBenchKeys(keys: BenchKeys) {
  useEffect(() => {
    function pressed(event: KeyboardEvent) {
      const { target } = event;
      const isText = isTyped(target);
      const isAside = target instanceof Element && target.closest("[role=dialog]");
      // A list takes letters to find an option; none begins with a digit.
      const isFinding = target instanceof HTMLSelectElement && !/^[0-9]$/.test(event.key);
      if (isText || isFinding || isAside || event.ctrlKey || event.metaKey || event.altKey) return;
      const path = pathAtHand();
      const key = event.key.toLowerCase();
      if (key === "[") keys.onIncrement(-1);
      else if (key === "]") keys.onIncrement(1);
      else if (/^[0-9]$/.test(key)) keys.onStage((Number(key) + 9) % 10);
      else if (key === "m" && path) keys.onMeasured(path);
      else if (key === "w") openWhy();
      else if (key === "c") keys.onCompare();
      else if (key === "?") keys.onHelp();
      else return;
      event.preventDefault();
    }
    window.addEventListener("keydown", pressed);
    return () => window.removeEventListener("keydown", pressed);
  }, [keys]);
}
