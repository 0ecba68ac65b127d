import Box from "@mui/material/Box";
import Dialog from "@mui/material/Dialog";
import { type ReactNode, useId } from "react";
import { night } from "../theme/tokens";
import { ChairButton } from "./ChairButton";

interface Props {
  open: boolean;
  title: string;
  children: ReactNode;
  onClose?: () => void;
}

/** A question over the dark view; Escape leaves it where it may be left. */
export function ChairDialog({ open, title, children, onClose }: Props) {
  const id = useId();
  return (
    <Dialog
      open={open}
      onClose={() => onClose?.()}
      aria-labelledby={id}
      transitionDuration={0}
      maxWidth="md"
      slotProps={{
        paper: {
          elevation: 0,
          sx: {
            bgcolor: night.panel,
            color: night.text,
            border: `2px solid ${night.line}`,
            borderRadius: 0,
            p: { xs: 2, md: 4 },
          },
        },
      }}
    >
      <Box component="h2" id={id} sx={{ m: 0, mb: 3, fontSize: 32, lineHeight: 1.15 }}>
        {title}
      </Box>
      {children}
      {onClose && <ChairButton onPress={onClose}>cancel</ChairButton>}
    </Dialog>
  );
}
