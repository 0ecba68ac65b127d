import { paper } from "../theme/tokens";

interface Hatch {
  id: string;
  angle: number;
  gap: number;
  opacity: number;
}

/** Hatch angles alternate from increment to increment; the last layer is hatched upright. */
const HATCHES: Hatch[] = [
  { id: "hatch-0", angle: 45, gap: 7, opacity: 0.6 },
  { id: "hatch-1", angle: -45, gap: 7, opacity: 0.5 },
  { id: "hatch-2", angle: 20, gap: 9, opacity: 0.5 },
  { id: "hatch-3", angle: -20, gap: 9, opacity: 0.5 },
  { id: "hatch-last", angle: 0, gap: 5, opacity: 0.35 },
];

export function hatchOf(order: number, count: number): string {
  return order === count ? "url(#hatch-last)" : `url(#hatch-${(order - 1) % 4})`;
}

/** The patterns that all sheets share. */
export function Hatches() {
  return (
    <defs>
      {HATCHES.map((h) => (
        <pattern
          key={h.id}
          id={h.id}
          width={h.gap}
          height={h.gap}
          patternUnits="userSpaceOnUse"
          patternTransform={`rotate(${h.angle})`}
        >
          <path d={`M0 0V${h.gap}`} stroke={paper.ink} strokeWidth="0.9" opacity={h.opacity} />
        </pattern>
      ))}
      <pattern id="dentin-dots" width="7" height="7" patternUnits="userSpaceOnUse">
        <circle cx="2" cy="2" r="0.75" fill={paper.dentinDot} />
      </pattern>
      <linearGradient id="beam-down" x1="0" y1="0" x2="0" y2="1">
        <stop offset="0" stopColor={paper.beam} stopOpacity="0.22" />
        <stop offset="1" stopColor={paper.beam} stopOpacity="0.02" />
      </linearGradient>
    </defs>
  );
}
