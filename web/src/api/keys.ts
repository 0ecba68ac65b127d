/** Under what the answers of the server are kept, all in one place. */
export const keys = {
  session: ["session"],
  today: ["today"],
  day: (day: string) => ["today", day],
  patients: (q: string, page: number, archived: boolean) => ["patients", q, page, archived],
  allPatients: ["patients"],
  patient: (id: number) => ["patient", id],
  teeth: ["teeth"],
  trials: ["trials"],
  colleagues: ["colleagues"],
  people: ["people"],
  practice: ["practice"],
  audit: (told: unknown) => ["audit", JSON.stringify(told)],
  link: (secret: string) => ["link", secret],
  lights: ["lights"],
  device: (kind: string) => ["device", kind],
  light: (id: number) => ["lights", id],
  materials: ["materials"],
  stock: ["stock"],
  shades: ["shades"],
  looks: (itemId: number) => ["stock", itemId, "color"],
  rules: ["rules"],
  restorations: ["restoration"],
  restoration: (id: number) => ["restoration", id],
  later: (id: number) => ["later", id],
  plan: (id: number, number: number) => ["plan", id, number],
  run: (id: number) => ["run", id],
  records: (q: string, page: number, unsigned: boolean) => ["records", q, page, unsigned],
  record: (id: number) => ["record", id],
  /** What the server works out of a draft. */
  ofDraft: (what: OfDraft, draft: unknown) => [what, JSON.stringify(draft)],
} as const;

const OF_DRAFT = [
  "preview",
  "measure-first",
  "light-lines",
  "color-face",
  "match-costs",
  "hold-lessons",
  "designs",
  "shapes",
  "restoratives",
] as const;
export type OfDraft = (typeof OF_DRAFT)[number];

/** All that was worked out of any draft: it rests on the practice's rules and stock. */
export const allOfDrafts = OF_DRAFT.map((what) => [what]);
