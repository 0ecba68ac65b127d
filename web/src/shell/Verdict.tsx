import Box from "@mui/material/Box";
import type { ReactNode } from "react";
import { paper } from "../theme/tokens";

export type VerdictKind = "pass" | "caution" | "fail";

const COLOUR = { pass: paper.verdigris, caution: paper.ochre, fail: paper.brick };
const WORD = { pass: "in order", caution: "caution", fail: "stop" };

/** A mark whose shape tells the verdict: ring and tick, triangle, square and bar. */
export function VerdictMark({ verdict }: { verdict: VerdictKind }) {
  const stroke = COLOUR[verdict];
  return (
    <svg width="18" height="18" viewBox="0 0 18 18" role="img" aria-label={WORD[verdict]}>
      <g fill="none" stroke={stroke} strokeWidth="2">
        {verdict === "pass" && (
          <>
            <circle cx="9" cy="9" r="7.5" />
            <path d="M5 9l3 3 5-6" />
          </>
        )}
        {verdict === "caution" && (
          <>
            <path d="M9 2l7.5 13.5h-15z" />
            <path d="M9 7v4M9 12.6v1.2" />
          </>
        )}
        {verdict === "fail" && (
          <>
            <path d="M2 2h14v14H2z" fill={stroke} />
            <path d="M5 9h8" stroke={paper.sheet} strokeWidth="2.6" />
          </>
        )}
      </g>
    </svg>
  );
}

/** A verdict as a list row: mark, words, and what may follow. */
export function Verdict({
  verdict,
  text,
  children,
}: {
  verdict: VerdictKind;
  text: string;
  children?: ReactNode;
}) {
  return (
    <Box
      component="li"
      sx={{
        display: "grid",
        gridTemplateColumns: "22px 1fr auto",
        gap: 0.75,
        py: 0.25,
        fontSize: 15,
      }}
    >
      <Box sx={{ pt: "2px" }}>
        <VerdictMark verdict={verdict} />
      </Box>
      <span>{text}</span>
      {children}
    </Box>
  );
}
