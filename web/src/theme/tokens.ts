/** Colours of paper, ink and the few inks that mean something. */
export const paper = {
  desk: "#f3efe4",
  sheet: "#fbf8f0",
  ink: "#1f2a30",
  soft: "#565f64",
  rule: "#d8d0bd",
  verdigris: "#245f5a",
  verdigrisPale: "#e3eee8",
  beam: "#51469f",
  beamPale: "#dedaf3",
  ochre: "#8a5a10",
  brick: "#95362a",
  enamel: "#fdfcf7",
  dentin: "#f0e4c8",
  dentinDot: "#b39d6b",
  pulp: "#ecd2c8",
  base: "#dfd9e2",
  wedge: "#dcc79a",
  wedgeLine: "#6b5526",
  faint: "#8c8674",
} as const;

/** A part of a page that is painted anew only where something within it changed. */
export const apart = { isolation: "isolate" } as const;

/** The chairside view is dark, so that the field stays the brightest thing in the room. */
export const night = {
  room: "#11181b",
  panel: "#172024",
  line: "#35444a",
  text: "#f3ecdc",
  soft: "#b4bcbc",
  beam: "#8f85ee",
  beamDeep: "#2b2752",
  done: "#2f4a44",
  go: "#d9f0e7",
  goText: "#10201b",
  warn: "#ecb35a",
  stop: "#f09a86",
} as const;

export const numerals = { fontVariantNumeric: "tabular-nums" } as const;
