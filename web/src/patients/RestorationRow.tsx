import Box from "@mui/material/Box";
import type { ReactNode } from "react";
import { paper } from "../theme/tokens";

interface Props {
  one: { tooth: string; surfaces: string };
  /** What can be done with it. */
  actions: ReactNode;
  children: ReactNode;
}

/** A restoration in a list: on which tooth, what there is to say of it, where it leads. */
export function RestorationRow({ one, actions, children }: Props) {
  return (
    <Box
      sx={{
        py: 1,
        borderTop: `1px solid ${paper.rule}`,
        display: "grid",
        gridTemplateColumns: "76px 1fr auto",
        columnGap: 1,
        alignItems: "center",
      }}
    >
      <strong>
        {one.tooth} {one.surfaces}
      </strong>
      <Box>{children}</Box>
      <Box sx={{ display: "flex", gap: 1 }}>{actions}</Box>
    </Box>
  );
}
