import { paper } from "../theme/tokens";
import type { Dimension, Frame } from "./geometry";

const STYLE = {
  measured: { dash: undefined, before: "", style: "normal" },
  estimated: { dash: "4 3", before: "about ", style: "normal" },
  handbook: { dash: "1 3", before: "handbook ", style: "italic" },
} as const;

interface Props {
  dimensions: Dimension[];
  frame: Frame;
  onPick: (path: string) => void;
}

/** Lengths with their end marks and a label; picking one leads to its field. */
export function Dimensions({ dimensions, frame, onPick }: Props) {
  return (
    <g>
      {dimensions.map((d) => {
        const [x0, y0] = frame.place(d.p0);
        const [x1, y1] = frame.place(d.p1);
        const look = STYLE[d.state];
        const text = `${look.before}${d.value.toFixed(1)}`;
        const wide = 16 + text.length * 8.2;
        const upright = d.axis === "z" || (d.axis === "y" && Math.abs(x1 - x0) < 1);
        const cx = (x0 + x1) / 2 + (upright ? wide / 2 + 8 : 0);
        // Upright labels sit low on their line, where the longer one has room of its own.
        const cy = upright ? y0 + (y1 - y0) * (d.axis === "z" ? 0.82 : 0.5) : (y0 + y1) / 2 + 20;
        return (
          <g key={d.case_path} stroke={paper.verdigris}>
            <path d={`M${x0} ${y0}L${x1} ${y1}`} strokeWidth="1.4" strokeDasharray={look.dash} />
            <circle cx={x0} cy={y0} r="4.5" fill={paper.sheet} strokeWidth="2" />
            <circle cx={x1} cy={y1} r="4.5" fill={paper.sheet} strokeWidth="2" />
            <g
              role="button"
              aria-label={`${d.title}: ${text} mm, ${d.state}. Change it`}
              onClick={() => onPick(d.case_path)}
              style={{ cursor: "pointer" }}
            >
              <rect
                x={cx - wide / 2}
                y={cy - 13}
                width={wide}
                height="26"
                fill={paper.sheet}
                strokeWidth="1.5"
                strokeDasharray={look.dash}
              />
              <text
                x={cx}
                y={cy + 5}
                fontSize="15"
                fontWeight="700"
                fontStyle={look.style}
                textAnchor="middle"
                stroke="none"
                fill={paper.ink}
              >
                {text}
              </text>
            </g>
          </g>
        );
      })}
    </g>
  );
}
