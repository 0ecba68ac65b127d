import type { Order, Painted } from "./painting";

type Unnumbered<T> = T extends unknown ? Omit<T, "id"> : never;
type Waiting = (painted: Painted | null) => void;

/** Paints beside the page, so that a picture on its way never holds up a frame. */
let worker: Worker | null = null;
let isBroken = typeof Worker === "undefined" || typeof OffscreenCanvas === "undefined";
let asked = 0;
const waiting = new Map<number, Waiting>();

/** Whether this browser is known to paint beside the page. */
export function hasPainter(): boolean {
  return worker !== null && !isBroken;
}

/** Returns what the painter made, or null where the page has to do it. */
export async function painted(order: Unnumbered<Order>): Promise<Painted | null> {
  if (isBroken) return null;
  if (!worker) {
    worker = new Worker(new URL("./painter.worker.ts", import.meta.url), { type: "module" });
    worker.onmessage = ({ data }: MessageEvent<Painted>) => {
      waiting.get(data.id)?.(data);
      waiting.delete(data.id);
    };
    worker.onerror = () => {
      isBroken = true;
      for (const giveUp of waiting.values()) giveUp(null);
      waiting.clear();
    };
  }
  const id = asked++;
  worker.postMessage({ id, ...order });
  return new Promise((resolve) => waiting.set(id, resolve));
}
