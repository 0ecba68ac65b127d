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

/** Tells whether a value has stood for a while: what takes long to reckon waits until nobody is at work on it. */
export function useStill<T>(value: T, ms: number): boolean {
  const [still, setStill] = useState<T>();
  useEffect(() => {
    const timer = setTimeout(() => setStill(value), ms);
    return () => clearTimeout(timer);
  }, [value, ms]);
  return still === value;
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
