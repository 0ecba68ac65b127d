import { useEffect, useState } from "react";
import type { RunState } from "./fold";

/** How fast two clocks may part, in milliseconds for each millisecond: a poor quartz does a tenth. */
const DRIFT = 1e-3;

/** How far the server's clock is ahead of this device's, give or take `unsure`, found at `at`; ms. */
let ahead = 0;
let unsure = Infinity;
let at = 0;

/**
 * Sets this device by the server's time; called with every answer that bears it. An answer is no
 * better than its way was short: a slow one sets the clock only where it contradicts a quick one.
 */
export function setByServer(serverNow: string, asked: number): void {
  const now = Date.now();
  const half = Math.abs(now - asked) / 2;
  const found = Date.parse(serverNow) - (now + asked) / 2;
  const grown = unsure + Math.abs(now - at) * DRIFT;
  if (half > grown && Math.abs(found - ahead) <= half + grown) return;
  ahead = found;
  unsure = half;
  at = now;
}

export function serverTime(): number {
  return Date.now() + ahead;
}

/** The server's time, ticking. */
export function useServerTime(): number {
  const [now, setNow] = useState(serverTime);
  useEffect(() => {
    const timer = setInterval(() => setNow(serverTime()), 200);
    return () => clearInterval(timer);
  }, []);
  return now;
}

/** Seconds that a step has been worked on at a time: pauses don't count, and time stands in one. */
export function workedSeconds(state: RunState, now: number): number {
  const until = state.paused_at ? Date.parse(state.paused_at) : now;
  return Math.max(0, (until - Date.parse(state.step_began)) / 1000 - state.paused_s);
}

export function minutesSeconds(seconds: number): string {
  const whole = Math.floor(Math.abs(seconds));
  return `${Math.floor(whole / 60)}:${String(whole % 60).padStart(2, "0")}`;
}
