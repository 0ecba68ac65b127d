import type { Schemas } from "../api/client";

export type RunEvent = Schemas["EventIn"];

const key = (run: number) => `apt-mallet.unsent.${run}`;

/** The events that this device has not had acknowledged, oldest first: they survive a reload. */
export function unsentOf(run: number): RunEvent[] {
  const text = localStorage.getItem(key(run));
  return text ? (JSON.parse(text) as RunEvent[]) : [];
}

export function keepUnsent(run: number, events: RunEvent[]): void {
  if (events.length) localStorage.setItem(key(run), JSON.stringify(events));
  else localStorage.removeItem(key(run));
}

/**
 * Returns what of the unsent events still makes sense after another device has moved the run on to a
 * step: what both did is done once, and what this device did from there on is kept.
 */
export function stillMeant(unsent: RunEvent[], stepId: string, revision: number): RunEvent[] {
  const from = unsent.findIndex((event) => event.step_id === stepId);
  if (from < 0) return [];
  return unsent.slice(from).map((event, i) => ({ ...event, expected_revision: revision + i }));
}

/** A name for this device that stays. */
export function deviceName(): string {
  const known = localStorage.getItem("apt-mallet.device");
  if (known) return known;
  const name = `device-${uuid().slice(0, 8)}`;
  localStorage.setItem("apt-mallet.device", name);
  return name;
}

/** Returns the next number of this device's events. */
export function nextSequence(): number {
  const next = Number(localStorage.getItem("apt-mallet.sequence") ?? 0) + 1;
  localStorage.setItem("apt-mallet.sequence", String(next));
  return next;
}

/** A random version 4 UUID; plain HTTP pages have no `crypto.randomUUID`. */
export function uuid(): string {
  const bytes = crypto.getRandomValues(new Uint8Array(16));
  bytes[6] = ((bytes[6] ?? 0) & 0x0f) | 0x40;
  bytes[8] = ((bytes[8] ?? 0) & 0x3f) | 0x80;
  const hex = Array.from(bytes, (b) => b.toString(16).padStart(2, "0")).join("");
  return [8, 12, 16, 20].reduceRight((text, at) => `${text.slice(0, at)}-${text.slice(at)}`, hex);
}
