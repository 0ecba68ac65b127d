import Box from "@mui/material/Box";

/** Shown while a view or its data is on the way. */
export function Waiting({ text = "One moment" }: { text?: string }) {
  return (
    <Box role="status" sx={{ p: 4, color: "text.secondary" }}>
      {text} …
    </Box>
  );
}
