/** A typed number, with point or comma; NaN for nothing and for what is none. */
export function numberIn(text: string): number {
  return text.trim() === "" ? NaN : Number(text.trim().replace(",", "."));
}

/** A height with its sign; a level one without. */
export function signedTenths(value: number): string {
  const told = Math.abs(value).toFixed(1);
  if (told === "0.0") return told;
  return `${value > 0 ? "+" : "\u2212"}${told}`;
}
