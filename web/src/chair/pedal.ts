/** The plates of a foot pedal: on to the next step, or back. */
export type Plate = "on" | "back";

/** A foot pedal: tells what is pressed until it is let go of. */
export interface Pedal {
  listen: (pressed: (plate: Plate) => void) => () => void;
}

const PLATES: Record<string, Plate> = { PageDown: "on", PageUp: "back" };

/** A pedal that is plugged in types the keys of a page turner; one that is held down repeats them. */
export const keyboardPedal: Pedal = {
  listen(pressed) {
    function typed(event: KeyboardEvent) {
      const plate = PLATES[event.key];
      const isInDialog = event.target instanceof Element && event.target.closest("[role=dialog]");
      // With Ctrl the browser's own keys: they change the tab.
      const isShortcut = event.ctrlKey || event.metaKey || event.altKey;
      if (!plate || isInDialog || isShortcut) return;
      event.preventDefault();
      if (!event.repeat) pressed(plate);
    }
    window.addEventListener("keydown", typed);
    return () => window.removeEventListener("keydown", typed);
  },
};

/** A pedal without a foot: for trying out and for those who have none. */
export class SimulatedPedal implements Pedal {
  private readonly listeners = new Set<(plate: Plate) => void>();

  listen(pressed: (plate: Plate) => void) {
    this.listeners.add(pressed);
    return () => void this.listeners.delete(pressed);
  }

  press(plate: Plate) {
    for (const pressed of this.listeners) pressed(plate);
  }
}
