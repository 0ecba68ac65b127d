/** A typed number, with point or comma; NaN for nothing and for what is none. */
export function numberIn(text: string): number {
  return text.trim() === "" ? NaN : Number(text.trim().replace(",", "."));
}
