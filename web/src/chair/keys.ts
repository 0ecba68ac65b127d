import { useEffect, useRef } from "react";
import type { Kind } from "./useRun";

const DEBOUNCE_MS = 400;

/** Which event a key stands for, given whether the step ends with a check and is the last. */
export function eventOf(key: string, hasCheck: boolean, isLast: boolean): Kind | null {
  switch (key) {
    case " ":
    case "PageDown":
      return hasCheck ? null : isLast ? "finished" : "step_done";
    case "Backspace":
    case "PageUp":
      return "step_back";
    case "p":
    case "P":
      return hasCheck ? "check_passed" : null;
    case "f":
    case "F":
      return hasCheck ? "check_failed" : null;
    case "w":
    case "W":
      return "got_wet";
    default:
      return null;
  }
}

/** Listens to keys and pedal; repeats are ignored and Space never also presses a focused button. */
export function useChairKeys(hasCheck: boolean, isLast: boolean, happen: (kind: Kind) => void) {
  const last = useRef(0);
  useEffect(() => {
    function pressed(event: KeyboardEvent) {
      if (
        event.target instanceof HTMLInputElement ||
        (event.target instanceof Element && event.target.closest("[role=dialog]")) ||
        event.ctrlKey ||
        event.metaKey ||
        event.altKey
      )
        return;
      if (event.key === " ") event.preventDefault();
      const kind = eventOf(event.key, hasCheck, isLast);
      if (!kind) return;
      event.preventDefault();
      if (event.repeat || performance.now() - last.current < DEBOUNCE_MS) return;
      last.current = performance.now();
      happen(kind);
    }
    function released(event: KeyboardEvent) {
      if (event.key === " ") event.preventDefault();
    }
    window.addEventListener("keydown", pressed);
    window.addEventListener("keyup", released);
    return () => {
      window.removeEventListener("keydown", pressed);
      window.removeEventListener("keyup", released);
    };
  }, [hasCheck, isLast, happen]);
}
