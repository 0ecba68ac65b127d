import type { Look } from "./paint";
import { painted } from "./painter";
import { type Unpainted, fit } from "./painting";
import { Newest } from "../shell/newest";

/** A canvas that shows the newest look asked for; one picture is painted at a time. */
export class Easel {
  private newest: Look | null = null;
  private readonly pictures = new Newest();

  constructor(private readonly canvas: HTMLCanvasElement) {}

  show(look: Look) {
    this.newest = look;
    void this.pictures.ask(this, () => this.paint(look));
  }

  /** Shows again what was last asked for. */
  comeBack() {
    if (this.newest) this.show(this.newest);
  }

  /** How another picture of this view is to look. */
  get unpainted(): Unpainted | null {
    if (!this.newest) return null;
    const { sheet, inset, ...look } = this.newest;
    return { ...look, view: sheet.view, hasInset: inset !== undefined };
  }

  /** Hangs a picture painted for a look; false where the view is to look otherwise by now. */
  hangFor(asked: Unpainted, picture: ImageBitmap): boolean {
    const { unpainted } = this;
    const isStill = unpainted !== null && JSON.stringify(unpainted) === JSON.stringify(asked);
    if (isStill) this.hang(picture);
    return isStill;
  }

  private hang(picture: ImageBitmap) {
    const { canvas } = this;
    if (canvas.width !== picture.width) canvas.width = picture.width;
    if (canvas.height !== picture.height) canvas.height = picture.height;
    canvas.getContext("bitmaprenderer")?.transferFromImageBitmap(picture);
    this.count();
  }

  private async paint(look: Look) {
    const picture = (await painted({ look }))?.pictures[0];
    if (picture) this.hang(picture);
    else this.paintHere(look);
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
