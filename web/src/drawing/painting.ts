import type { Schemas } from "../api/client";
import type { Dimension, Sheet } from "./geometry";
import type { Pen } from "./hatching";
import { type Look, paint } from "./paint";

/** What is asked of the painter: a picture, or a glimpse of the plan of a case in several views. */
export type Order =
  | { id: number; look: Look }
  | { id: number; path: string; headers: Record<string, string>; body: string; looks: Unpainted[] };

/** A look whose sheet is still to come. */
export type Unpainted = Omit<Look, "sheet" | "inset"> & { view: string; hasInset: boolean };

/** What the painter made: nothing where this browser can't paint beside the page, or the case has no plan. */
export interface Painted {
  id: number;
  pictures: ImageBitmap[];
  glimpse?: Glimpse | undefined;
}

/** The little of a plan that moves on the page while a measurement is dragged. */
export interface Glimpse {
  /** By view. */
  dimensions: Record<string, Dimension[]>;
  /** By the id of the figure. */
  figures: Record<string, Pick<Schemas["Figure"], "value" | "unit" | "detail">>;
}

/** Returns what a glimpse needs of a plan, and the looks with their sheets; null where there is no plan. */
export function glimpseOf(
  { plan, drawing }: Pick<Schemas["PreviewOut"], "plan" | "drawing">,
  looks: Unpainted[],
): { glimpse: Glimpse; looks: Look[] } | null {
  if (!plan || !drawing) return null;
  const sheets = new Map<string, Sheet>(drawing.sheets.map((sheet) => [sheet.view, sheet]));
  const [section] = drawing.sheets;
  return {
    glimpse: {
      dimensions: Object.fromEntries(drawing.sheets.map((s) => [s.view, s.dimensions])),
      figures: Object.fromEntries(
        plan.figures.map(({ id, value, unit, detail }) => [id, { value, unit, detail }]),
      ),
    },
    looks: looks.flatMap(({ view, hasInset, ...look }) => {
      const sheet = sheets.get(view);
      return sheet ? [{ ...look, sheet, inset: hasInset ? section : undefined }] : [];
    }),
  };
}

/** Sizes a canvas for a look, and paints it. */
export function fit(canvas: { width: number; height: number }, pen: Pen, look: Look) {
  canvas.width = Math.round(look.width * look.sharpness);
  canvas.height = Math.round(look.height * look.sharpness);
  pen.setTransform(look.sharpness, 0, 0, look.sharpness, 0, 0);
  paint(pen, look);
}
