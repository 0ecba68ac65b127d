import { useEffect, useState } from "react";

/** How far the server's clock is ahead of this device's, in milliseconds. */
let ahead = 0;

/** Sets this device by the server's time; called with every answer that bears it. */
export function setByServer(serverNow: string): void {
  ahead = Date.parse(serverNow) - Date.now();
}

export function serverTime(): number {
  return Date.now() + ahead;
}

/** Seconds since a server time, ticking. */
export function useElapsed(since: string): number {
  const [now, setNow] = useState(serverTime);
  useEffect(() => {
    setNow(serverTime());
    const timer = setInterval(() => setNow(serverTime()), 200);
    return () => clearInterval(timer);
  }, [since]);
  return Math.max(0, (now - Date.parse(since)) / 1000);
}

export function minutesSeconds(seconds: number): string {
  const whole = Math.floor(Math.abs(seconds));
  return `${Math.floor(whole / 60)}:${String(whole % 60).padStart(2, "0")}`;
}
