import { useEffect, useState } from "react";
import type { RunState } from "./fold";

/** How far the server's clock is ahead of this device's, in milliseconds. */
let ahead = 0;

/** Sets this device by the server's time; called with every answer that bears it. */
export function setByServer(serverNow: string): void {
  ahead = Date.parse(serverNow) - Date.now();
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
