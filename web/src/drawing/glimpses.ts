import { replaceEqualDeep } from "@tanstack/react-query";
import { createContext, use, useCallback, useSyncExternalStore } from "react";
import { type Case, bodyOf, ownPage } from "../api/client";
import type { Newest } from "../shell/newest";
import type { Easel } from "./easel";
import { hasPainter, painted } from "./painter";
import type { Glimpse, Painted, Unpainted } from "./painting";

interface Asked {
  data: Case;
  /** The value in hand, as it would be typed. */
  held?: Held;
  /** Called for a case that has no plan: it is up to the page, which says why. */
  giveUp?: () => void;
}

interface Held {
  path: string;
  text: string;
}

/** Frames that a part of a glimpse waits for a calm one. */
const PATIENCE = 4;

/**
 * Keeps drawing, dimensions and figures with a measurement that is dragged. Each value is planned and painted
 * beside the page and only what moves comes back; the page takes up the whole plan once the grip is let go.
 * It takes turns with the page at `previews`.
 */
export class Glimpses {
  private easels = new Set<Easel>();
  private listeners = new Set<() => void>();
  private newest: Asked | null = null;
  private isWarm = false;
  private shown: Partial<Glimpse> = {};
  private held: Held | undefined;
  private isMoving = false;

  constructor(private readonly previews: Newest) {}

  /** Whether there is anything to look with. */
  get isReady(): boolean {
    return hasPainter() && this.easels.size > 0;
  }

  get isShowing(): boolean {
    return this.previews.isBusyFor(this) || this.shown.dimensions !== undefined;
  }

  /** Keeps an easel's picture up to date; returns how to let it go. */
  hold(easel: Easel): () => void {
    this.easels.add(easel);
    return () => this.easels.delete(easel);
  }

  /** Shows a case, once what is in flight has landed; resolves when all has. */
  async ask(asked: Asked): Promise<void> {
    const isFirst = !this.isShowing;
    this.newest = asked;
    this.isMoving = true;
    const landed = this.previews.ask(this, () => this.glimpse(asked));
    if (!isFirst) return landed;
    this.tell();
    await landed;
    this.tell();
  }

  /** Shows what is on the page already, so that the first glimpse of a drag is as quick as those after it. */
  async warmUp(data: Case) {
    if (!this.isReady || this.isShowing || this.isWarm) return;
    this.isWarm = true;
    const asked = { data };
    await this.ask(asked);
    // A drag that began meanwhile goes on.
    if (this.newest === asked) this.clear(false);
  }

  /** Forgets what was shown, since the page shows its plan; one that it showed before is hung again. */
  clear(isShownBefore: boolean) {
    if (!this.isShowing) return;
    this.previews.drop(this);
    this.shown = {};
    this.held = undefined;
    if (isShownBefore) for (const easel of this.easels) easel.comeBack();
    this.tell();
  }

  readonly subscribe = (listener: () => void) => {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  };

  readonly heldAt = (path: string) => (this.held?.path === path ? this.held.text : undefined);
  readonly dimensions = () => this.shown.dimensions;
  readonly figures = () => this.shown.figures;

  private tell() {
    for (const listener of this.listeners) listener();
  }

  private async glimpse(asked: Asked) {
    const easels = [...this.easels].filter((easel) => easel.unpainted);
    const looks = easels.flatMap((easel) => easel.unpainted ?? []);
    const headers = { "Content-Type": "application/json", ...ownPage() };
    const body = JSON.stringify(bodyOf(asked.data));
    const order = { path: "/api/preview", headers, body, looks };
    const made = await painted(order);
    if (made?.glimpse && made.pictures.length === easels.length)
      await this.show(made, easels, looks, asked);
    else asked.giveUp?.();
  }

  /** Each part is shown in a frame of its own, in which the grip rests, so that none takes long. */
  private async show(
    { pictures, glimpse }: Painted,
    easels: Easel[],
    looks: Unpainted[],
    asked: Asked,
  ) {
    await this.take("dimensions", glimpse?.dimensions);
    for (const [i, picture] of pictures.entries()) {
      await this.calm();
      const look = looks[i];
      // A view that was asked to look otherwise meanwhile is painted anew, for this value or a newer one.
      if (look && !easels[i]?.hangFor(look, picture) && !this.previews.hasNext)
        void this.previews.ask(this, () => this.glimpse(asked));
    }
    await this.calm();
    this.held = asked.held;
    this.tell();
    await this.take("figures", glimpse?.figures);
  }

  /** Waits for a frame in which the grip has not moved on, though not for many. */
  private async calm() {
    for (let frames = 0; frames < PATIENCE; frames++) {
      this.isMoving = false;
      await frame();
      if (!this.isMoving) return;
    }
  }

  /** Takes one view's dimensions or one figure a frame; what is the same takes none, and stays the same object. */
  private async take<Part extends keyof Glimpse>(part: Part, found: Glimpse[Part] | undefined) {
    for (const [id, value] of Object.entries(found ?? {})) {
      const shown = replaceEqualDeep(this.shown, {
        ...this.shown,
        [part]: { ...this.shown[part], [id]: value as unknown },
      });
      if (shown === this.shown) continue;
      await this.calm();
      this.shown = shown;
      this.tell();
    }
  }
}

function frame(): Promise<number> {
  return new Promise(requestAnimationFrame);
}

export const GlimpsesContext = createContext<Glimpses | null>(null);

const NEVER = () => () => undefined;
const NOTHING = () => undefined;

/** Returns the dimensions of a view as they are glimpsed, by way of those of the plan. */
export function useGlimpsedDimensions(view: string) {
  const glimpses = use(GlimpsesContext);
  return useSyncExternalStore(glimpses?.subscribe ?? NEVER, glimpses?.dimensions ?? NOTHING)?.[
    view
  ];
}

/** Returns a figure as it is glimpsed, if it is. */
export function useGlimpsedFigure(id: string) {
  const glimpses = use(GlimpsesContext);
  const figure = useCallback(() => glimpses?.figures()?.[id], [glimpses, id]);
  return useSyncExternalStore(glimpses?.subscribe ?? NEVER, figure);
}

/** Returns what the field of a measurement shows while its grip is held. */
export function useHeldText(path: string) {
  const glimpses = use(GlimpsesContext);
  const text = useCallback(() => glimpses?.heldAt(path), [glimpses, path]);
  return useSyncExternalStore(glimpses?.subscribe ?? NEVER, text);
}

/** Returns whether anything on the page is of a glimpse. */
export function useIsGlimpsing(): boolean {
  const glimpses = use(GlimpsesContext);
  const is = useCallback(() => glimpses?.isShowing ?? false, [glimpses]);
  return useSyncExternalStore(glimpses?.subscribe ?? NEVER, is);
}
