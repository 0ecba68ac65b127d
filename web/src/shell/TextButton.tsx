import Box from "@mui/material/Box";

interface Props {
  /** What is said aloud, where the words alone are not enough; it begins with them. */
  label?: string;
  onPress: () => void;
  children: string;
}

/** A few words that do something, in a line of text. */
export function TextButton({ label, onPress, children }: Props) {
  return (
    <Box
      component="button"
      type="button"
      className="no-print"
      aria-label={label}
      onClick={onPress}
      sx={{
        border: 0,
        p: 0.5,
        minHeight: 32,
        bgcolor: "transparent",
        font: "inherit",
        fontWeight: 700,
        color: "primary.main",
        textDecoration: "underline",
        cursor: "pointer",
      }}
    >
      {children}
    </Box>
  );
}
