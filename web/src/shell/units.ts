/** How sure a rule is, in words. */
export const SURENESS: Record<string, string> = {
  A: "published, recalled",
  B: "published, edge uncertain",
  C: "default estimate",
  T: "customary practice",
};

/** A unit with its exponents and signs as printed. */
export function unitOf(unit: string): string {
  if (unit === "x") return "\u00d7";
  return unit
    .replace("cm2", "cm\u00b2")
    .replace("m2", "m\u00b2")
    .replace("mm3", "mm\u00b3")
    .replace("cm3", "cm\u00b3");
}

/** A value with its unit; degrees follow it closely. */
export function withUnit(value: string, unit: string): string {
  return unit === "deg" ? `${value}\u00b0` : `${value} ${unitOf(unit)}`;
}

const NUMBER = new Intl.NumberFormat("en-GB", { maximumSignificantDigits: 6 });

/** A number with thin spaces between thousands. */
export function shown(value: number): string {
  return NUMBER.format(value).replaceAll(",", "\u202f");
}
