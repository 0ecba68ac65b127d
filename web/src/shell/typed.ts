const PICKED = ["radio", "checkbox", "button"];

/** Returns whether a key that is pressed there is part of what is typed. */
export function isTyped(target: EventTarget | null): boolean {
  if (target instanceof HTMLTextAreaElement) return true;
  return target instanceof HTMLInputElement && !PICKED.includes(target.type);
}
