import Box from "@mui/material/Box";
import { paper } from "../theme/tokens";

/** A crown in section with its layers, drawn as on the Bench. */
export function Emblem() {
  return (
    <Box sx={{ display: { xs: "none", md: "block" } }} aria-hidden="true">
      <svg viewBox="0 0 420 250" width="100%" style={{ maxWidth: 460 }}>
        <defs>
          <pattern
            id="e1"
            width="9"
            height="9"
            patternUnits="userSpaceOnUse"
            patternTransform="rotate(45)"
          >
            <path d="M0 0V9" stroke={paper.sheet} strokeWidth="1.2" />
          </pattern>
          <pattern
            id="e2"
            width="9"
            height="9"
            patternUnits="userSpaceOnUse"
            patternTransform="rotate(-45)"
          >
            <path d="M0 0V9" stroke={paper.sheet} strokeWidth="1.2" opacity=".6" />
          </pattern>
        </defs>
        <g fill="none" stroke={paper.sheet} strokeWidth="2.5" strokeLinejoin="round">
          <path d="M90 245C70 190 52 150 62 105C70 66 100 52 132 34C160 52 182 66 210 68C240 64 262 52 292 32C322 46 352 66 360 104C368 150 350 190 332 245" />
          <path
            d="M112 112H276V44C252 58 232 67 210 68C182 66 160 52 132 34L94 58Z"
            fill="url(#e1)"
            strokeWidth="1.5"
          />
          <path
            d="M62 176C54 150 56 126 62 105C66 84 78 70 94 58L112 112V176Z"
            fill="url(#e2)"
            strokeWidth="1.5"
          />
          <path d="M40 6H200V22H40Z" strokeWidth="2" />
          <path
            d="M48 28L66 170M192 28L110 170"
            strokeWidth="1"
            strokeDasharray="6 6"
            opacity=".7"
          />
        </g>
      </svg>
    </Box>
  );
}
