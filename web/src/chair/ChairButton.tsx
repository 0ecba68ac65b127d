import Box from "@mui/material/Box";
import type { ReactNode } from "react";
import { night } from "../theme/tokens";

interface Props {
  children: ReactNode;
  keyName?: string;
  onPress: () => void;
  main?: boolean;
  small?: boolean;
  colour?: string;
  disabled?: boolean;
  /** Whether what it opens is open, and the id of that. */
  isOpen?: boolean;
  controls?: string;
}

/** A target that a gloved hand hits, with the key that does the same. */
export function ChairButton({
  children,
  keyName,
  onPress,
  main,
  small,
  colour,
  disabled,
  isOpen,
  controls,
}: Props) {
  const line = colour ?? (main ? night.go : night.line);
  return (
    <Box
      component="button"
      type="button"
      disabled={disabled}
      aria-expanded={isOpen}
      aria-controls={isOpen ? controls : undefined}
      onClick={onPress}
      sx={{
        minHeight: main ? 72 : { xs: 60, sm: 72 },
        minWidth: main ? { xs: 0, sm: 128, md: 240 } : small ? 0 : { xs: 0, sm: 96, md: 120 },
        px: small ? { xs: 0.75, md: 2 } : { xs: 1, sm: 2, md: 3 },
        font: "inherit",
        fontSize: small ? { xs: 18, md: 20 } : 24,
        fontWeight: small ? 400 : 700,
        border: `2px solid ${line}`,
        bgcolor: main ? night.go : "transparent",
        color: main ? night.goText : (colour ?? night.text),
        cursor: "pointer",
        "&:disabled": { opacity: 0.4, cursor: "default" },
        "&:focus-visible": { outline: `3px solid ${night.beam}` },
      }}
    >
      {keyName && (
        <Box
          component="span"
          // A phone has no keys, and its clock needs the room.
          sx={{
            display: { xs: "none", md: "inline" },
            fontSize: 16,
            fontWeight: 400,
            mr: 1.5,
            opacity: 0.8,
          }}
        >
          {keyName}
        </Box>
      )}
      {children}
    </Box>
  );
}
