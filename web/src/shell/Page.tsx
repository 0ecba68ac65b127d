import Box from "@mui/material/Box";
import type { ReactNode } from "react";

interface Props {
  title: string;
  /** What is said beside the title. */
  beside?: ReactNode;
  /** What is done with the page as a whole. */
  actions?: ReactNode;
  children: ReactNode;
}

/** A page below the header: its title, what is done with it, what it shows. */
export function Page({ title, beside, actions, children }: Props) {
  return (
    <Box sx={{ p: { xs: 2, md: 3 }, width: "100%", maxWidth: 1180, mx: "auto" }}>
      <Box sx={{ display: "flex", flexWrap: "wrap", gap: 1.5, alignItems: "baseline", mb: 2 }}>
        <Box component="h1" sx={{ m: 0, fontSize: 26 }}>
          {title}
        </Box>
        <Box sx={{ color: "text.secondary" }}>{beside}</Box>
        <Box sx={{ ml: "auto", display: "flex", gap: 1, flexWrap: "wrap" }}>{actions}</Box>
      </Box>
      {children}
    </Box>
  );
}
