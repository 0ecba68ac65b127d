import Accordion from "@mui/material/Accordion";
import AccordionDetails from "@mui/material/AccordionDetails";
import AccordionSummary from "@mui/material/AccordionSummary";
import type { ReactNode } from "react";

interface Props {
  name: string;
  /** Whether it is open at first. */
  isOpen?: boolean;
  /** Made only once it is opened. */
  children: ReactNode;
}

/** What is folded away until somebody wants it. */
export function Folded({ name, isOpen = false, children }: Props) {
  return (
    <Accordion
      disableGutters
      defaultExpanded={isOpen}
      slotProps={{
        heading: { component: "h2" },
        transition: { unmountOnExit: true, timeout: 0 },
      }}
    >
      <AccordionSummary expandIcon={<Arrow />}>{name}</AccordionSummary>
      <AccordionDetails>{children}</AccordionDetails>
    </Accordion>
  );
}

function Arrow() {
  return (
    <svg width="10" height="12" viewBox="0 0 10 12" aria-hidden="true">
      <path d="M1 1l8 5-8 5z" fill="currentColor" />
    </svg>
  );
}
