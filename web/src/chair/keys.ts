import { useEffect, useRef } from "react";
import type { Pedal, Plate } from "./pedal";
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
    case "o":
    case "O":
      return "mix_too_old";
    default:
      return null;
  }
}

/** What a pedal's plates stand for. */
const KEY_OF: Record<Plate, string> = { on: "PageDown", back: "PageUp" };

/** Listens to keys and pedals; repeats are ignored and Space never also presses a focused button. */
export function useChairKeys(
  hasCheck: boolean,
  isLast: boolean,
  pedals: readonly Pedal[],
  happen: (kind: Kind) => void,
) {
  const last = useRef(0);
  useEffect(() => {
    function press(kind: Kind | null) {
      if (!kind || performance.now() - last.current < DEBOUNCE_MS) return;
      last.current = performance.now();
      happen(kind);
    }
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
      if (!kind || Object.values(KEY_OF).includes(event.key)) return;
      event.preventDefault();
      if (!event.repeat) press(kind);
    }
    function released(event: KeyboardEvent) {
      if (event.key === " ") event.preventDefault();
    }
    const letGo = pedals.map((pedal) =>
      pedal.listen((plate) => press(eventOf(KEY_OF[plate], hasCheck, isLast))),
    );
    window.addEventListener("keydown", pressed);
    window.addEventListener("keyup", released);
    return () => {
      for (const stop of letGo) stop();
      window.removeEventListener("keydown", pressed);
      window.removeEventListener("keyup", released);
    };
  }, [hasCheck, isLast, pedals, happen]);
}
