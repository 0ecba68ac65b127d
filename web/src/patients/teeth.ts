import type { Schemas } from "../api/client";

export type Place = [number, number];
export type Tooth = Omit<Schemas["ToothOut"], "outline"> & { outline: Place[] };
export type Dentition = "permanent" | "primary" | "mixed";

export const DENTITIONS: { value: Dentition; name: string }[] = [
  { value: "permanent", name: "permanent" },
  { value: "mixed", name: "mixed" },
  { value: "primary", name: "primary" },
];

/** The parts of a tooth that are tapped: the middle is occlusal, of an anterior tooth incisal. */
export const SURFACES: Record<string, string> = {
  M: "mesial",
  O: "occlusal",
  D: "distal",
  I: "incisal",
  F: "facial",
  L: "lingual",
};
const IN_ORDER = "MODIFL";
/** The middle zone over the outline. */
const MIDDLE = 0.52;
const STEP_DEG = 6;
/** Between the teeth of an arch, and how deep the arch is over half its width. */
const GAP_MM = 1.2;
const DEEP = 0.86;
const FINE = 400;
/** The front of a mixed dentition is permanent first, its back last. */
const MIXED_PERMANENT = [1, 2, 6];

/** Returns surfaces in the order in which they are named. */
export function inOrder(surfaces: Iterable<string>): string {
  const chosen = new Set(surfaces);
  return [...IN_ORDER].filter((letter) => chosen.has(letter)).join("");
}

/** Returns the letters of a tooth's surfaces. */
export function surfacesOf(tooth: Tooth): string[] {
  return ["M", tooth.is_posterior ? "O" : "I", "D", "F", "L"];
}

/** Returns which teeth are shown at an age unless somebody asks for others. */
export function dentitionAt(ageYears: number): Dentition {
  return ageYears < 6 ? "primary" : ageYears < 13 ? "mixed" : "permanent";
}

/** Returns how far an outline lies from its middle in a direction, in the tooth's frame. */
function radiusAt(outline: Place[], turn: number): number {
  const told = outline
    .map(([x, y]) => [Math.atan2(y, x), Math.hypot(x, y)] as const)
    .sort((a, b) => a[0] - b[0]);
  const full = 2 * Math.PI;
  const at = Math.atan2(Math.sin(turn), Math.cos(turn));
  const after = told.findIndex(([angle]) => angle >= at);
  const hi = told[after < 0 ? 0 : after];
  const lo = told[(after <= 0 ? told.length : after) - 1];
  if (!hi || !lo) return 0;
  const span = (hi[0] - lo[0] + full) % full || full;
  const share = ((at - lo[0] + full) % full) / span;
  return lo[1] + share * (hi[1] - lo[1]);
}

/** Returns the outline of a surface in the tooth's frame: the middle, or what lies beside it on one side. */
export function zoneOf(tooth: Tooth, letter: string): Place[] {
  const { outline } = tooth;
  const half = (i: 0 | 1) => Math.max(...outline.map((p) => Math.abs(p[i])));
  const corner = Math.atan2(half(1), half(0));
  const ends: Record<string, [number, number]> = {
    M: [-corner, corner],
    F: [corner, Math.PI - corner],
    D: [Math.PI - corner, Math.PI + corner],
    L: [Math.PI + corner, 2 * Math.PI - corner],
  };
  const along = (from: number, to: number, share: number): Place[] => {
    const count = Math.max(Math.round(((to - from) * 180) / Math.PI / STEP_DEG), 2);
    return Array.from({ length: count + 1 }, (_, i) => {
      const turn = from + ((to - from) * i) / count;
      const r = share * radiusAt(outline, turn);
      return [r * Math.cos(turn), r * Math.sin(turn)];
    });
  };
  const side = ends[letter];
  if (!side) return along(0, 2 * Math.PI, MIDDLE).slice(0, -1);
  return [...along(...side, 1), ...along(...side, MIDDLE).reverse()];
}

/** Where a tooth stands on the chart: its middle, and where mesial and facial point there (x to the right, y down). */
export interface Stand {
  tooth: Tooth;
  at: Place;
  mesial: Place;
  facial: Place;
}

/** Returns where a place of a tooth's frame is on the chart. */
export function onChart(stand: Stand, [x, y]: Place): Place {
  return [
    stand.at[0] + x * stand.mesial[0] + y * stand.facial[0],
    stand.at[1] + x * stand.mesial[1] + y * stand.facial[1],
  ];
}

function isShown(tooth: Tooth, dentition: Dentition): boolean {
  if (dentition !== "mixed") return tooth.is_primary === (dentition === "primary");
  const position = Number(tooth.code[1]);
  return tooth.is_primary ? position > 2 : MIXED_PERMANENT.includes(position);
}

/** Returns the teeth of a dentition as they stand on the chart, as somebody in front of the patient sees them. */
export function arches(teeth: Tooth[], dentition: Dentition): Stand[] {
  const shown = teeth.filter((tooth) => isShown(tooth, dentition));
  const isRight = (tooth: Tooth) => "1458".includes(tooth.code[0] ?? "");
  const isUpper = (tooth: Tooth) => "1256".includes(tooth.code[0] ?? "");
  const rank = (tooth: Tooth) => Number(tooth.code[1]) * (isRight(tooth) ? -1 : 1);
  return [true, false].flatMap((upper) =>
    arch(
      shown.filter((tooth) => isUpper(tooth) === upper).sort((a, b) => rank(a) - rank(b)),
      upper ? -1 : 1,
      isRight,
    ),
  );
}

function widthOf(tooth: Tooth): number {
  const xs = tooth.outline.map((p) => p[0]);
  return Math.max(...xs) - Math.min(...xs);
}

/** Stands teeth along half an ellipse that is as long as they are; `down` tells where its front lies. */
function arch(teeth: Tooth[], down: number, isRight: (tooth: Tooth) => boolean): Stand[] {
  const long = teeth.reduce((sum, tooth) => sum + widthOf(tooth) + GAP_MM, 0);
  const unit = sampled(1);
  const half = long / unit.length;
  let run = 0;
  return teeth.map((tooth) => {
    const wide = widthOf(tooth) + GAP_MM;
    const turn = unit.turnAt((run + wide / 2) / half);
    run += wide;
    const [cos, sin] = [Math.cos(turn), Math.sin(turn)];
    const at: Place = [-half * cos, down * (half * DEEP * sin + 7)];
    const along = normed([sin, down * DEEP * cos]);
    const outward = normed([-cos * DEEP, down * sin]);
    const toMiddle = isRight(tooth) ? 1 : -1;
    return { tooth, at, mesial: [along[0] * toMiddle, along[1] * toMiddle], facial: outward };
  });
}

function normed([x, y]: Place): Place {
  const length = Math.hypot(x, y) || 1;
  return [x / length, y / length];
}

/** Returns how long half an ellipse is, and at which turn so much of it has been gone. */
function sampled(half: number) {
  const turns = Array.from({ length: FINE + 1 }, (_, i) => (Math.PI * i) / FINE);
  const gone = [0];
  for (let i = 1; i <= FINE; i++) {
    const [a, b] = [turns[i - 1] ?? 0, turns[i] ?? 0];
    const step = Math.hypot(
      half * (Math.cos(b) - Math.cos(a)),
      half * DEEP * (Math.sin(b) - Math.sin(a)),
    );
    gone.push((gone[i - 1] ?? 0) + step);
  }
  return {
    length: gone[FINE] ?? 1,
    turnAt: (far: number) => turns[gone.findIndex((one) => one >= far)] ?? Math.PI,
  };
}

/** Returns a closed path through places. */
export function pathOf(places: Place[]): string {
  return `M${places.map(([x, y]) => `${x.toFixed(2)} ${y.toFixed(2)}`).join("L")}Z`;
}
