import Box from "@mui/material/Box";
import type { ReactNode } from "react";
import { paper } from "../theme/tokens";
import { Emblem } from "./Emblem";

/** What stands before everything else: what the product is and is not, beside what there is to fill in. */
export function FirstPage({ children }: { children: ReactNode }) {
  return (
    <Box
      component="main"
      sx={{
        minHeight: "100dvh",
        display: "grid",
        gridTemplateColumns: { xs: "1fr", md: "1.15fr 1fr" },
      }}
    >
      <Box
        sx={{
          bgcolor: paper.ink,
          color: paper.sheet,
          p: { xs: 3, md: 7 },
          display: "flex",
          flexDirection: "column",
          justifyContent: "space-between",
          gap: 4,
        }}
      >
        <Box>
          <Box sx={{ fontSize: { xs: 34, md: 52 }, fontWeight: 700, lineHeight: 1.05 }}>
            Apt Mallet
          </Box>
          <Box sx={{ mt: 2, fontSize: { xs: 17, md: 21 }, maxWidth: 460, lineHeight: 1.4 }}>
            Plans direct restorations from your cavity measurements and curing light, and guides
            placement step by step.
          </Box>
        </Box>
        <Emblem />
        <Box sx={{ fontSize: 14, maxWidth: 480, lineHeight: 1.5, opacity: 0.92 }}>
          Not a certified medical device. It advises; a dentist decides and signs. Local codes and
          the manufacturers’ instructions come first.
        </Box>
      </Box>
      <Box
        sx={{
          p: { xs: 3, md: 7 },
          display: "flex",
          flexDirection: "column",
          justifyContent: "center",
          width: "100%",
          maxWidth: 560,
        }}
      >
        {children}
      </Box>
    </Box>
  );
}
