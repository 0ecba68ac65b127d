/** Whose law can be told. */
export const PLACES = [
  { value: "eu", name: "European Union" },
  { value: "us", name: "United States" },
  { value: "elsewhere", name: "elsewhere" },
];

/** Returns the chairs that are named in a text, with commas between. */
export function chairsIn(text: string): string[] {
  return text
    .split(",")
    .map((chair) => chair.trim())
    .filter(Boolean);
}
