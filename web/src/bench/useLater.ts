import { startTransition, useEffect, useState } from "react";

/**
 * Returns a value one frame later. What shows it is rendered and put on the page in a frame of its own:
 * a whole new plan in one go would hold up a drag.
 */
export function useLater<T>(value: T): T {
  const [shown, setShown] = useState(value);
  useEffect(() => {
    const frame = requestAnimationFrame(() => startTransition(() => setShown(value)));
    return () => cancelAnimationFrame(frame);
  }, [value]);
  return shown;
}

const SETTLED_MS = 120;

/** Returns the last value that there was while nothing newer was on its way, for a moment at least. */
export function useSettled<T>(value: T, isWaiting: boolean): T {
  const [shown, setShown] = useState(value);
  useEffect(() => {
    if (isWaiting) return undefined;
    const timer = setTimeout(() => startTransition(() => setShown(value)), SETTLED_MS);
    return () => clearTimeout(timer);
  }, [value, isWaiting]);
  return shown;
}
