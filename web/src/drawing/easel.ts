import type { Look } from "./paint";
import { type Painted, fit } from "./painting";

type Waiting = (picture: ImageBitmap | null) => void;

/** Paints beside the page, so that a picture on its way never holds up a frame. */
let worker: Worker | null = null;
let isBroken = typeof Worker === "undefined" || typeof OffscreenCanvas === "undefined";
let asked = 0;
const waiting = new Map<number, Waiting>();

/** Returns a picture, or null where it has to be painted on the page. */
async function painted(look: Look): Promise<ImageBitmap | null> {
  if (isBroken) return null;
  if (!worker) {
    worker = new Worker(new URL("./painter.worker.ts", import.meta.url), { type: "module" });
    worker.onmessage = ({ data }: MessageEvent<Painted>) => {
      waiting.get(data.id)?.(data.picture);
      waiting.delete(data.id);
    };
    worker.onerror = () => {
      isBroken = true;
      for (const giveUp of waiting.values()) giveUp(null);
      waiting.clear();
    };
  }
  const id = asked++;
  worker.postMessage({ id, look });
  return new Promise((resolve) => waiting.set(id, resolve));
}

/** A canvas that shows the newest look asked for; one picture is painted at a time. */
export class Easel {
  private next: Look | null = null;
  private isPainting = false;

  constructor(private readonly canvas: HTMLCanvasElement) {}

  show(look: Look) {
    this.next = look;
    if (!this.isPainting) void this.keepUp();
  }

  private async keepUp() {
    this.isPainting = true;
    try {
      for (let look = this.next; look; look = this.next) {
        this.next = null;
        const picture = await painted(look);
        if (picture) this.hang(picture);
        else this.paintHere(look);
      }
    } finally {
      this.isPainting = false;
    }
  }

  private hang(picture: ImageBitmap) {
    const { canvas } = this;
    if (canvas.width !== picture.width) canvas.width = picture.width;
    if (canvas.height !== picture.height) canvas.height = picture.height;
    canvas.getContext("bitmaprenderer")?.transferFromImageBitmap(picture);
    this.count();
  }

  /** For a browser that can't paint anywhere else. */
  private paintHere(look: Look) {
    const pen = this.canvas.getContext("2d");
    if (!pen) return;
    fit(this.canvas, pen, look);
    this.count();
  }

  private count() {
    const { dataset } = this.canvas;
    dataset.painted = String(Number(dataset.painted ?? 0) + 1);
  }
}
