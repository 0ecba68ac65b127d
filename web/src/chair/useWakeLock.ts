import { useEffect } from "react";

/** Keeps the screen awake while the view is open, where the browser can. */
export function useWakeLock(): void {
  useEffect(() => {
    let lock: WakeLockSentinel | null = null;
    let gone = false;
    async function hold() {
      if (document.visibilityState !== "visible" || !("wakeLock" in navigator)) return;
      try {
        lock = await navigator.wakeLock.request("screen");
        if (gone) await lock.release();
      } catch {
        // Refused by the browser (low battery, say): the view works without it.
      }
    }
    void hold();
    document.addEventListener("visibilitychange", hold);
    return () => {
      gone = true;
      document.removeEventListener("visibilitychange", hold);
      void lock?.release();
    };
  }, []);
}
