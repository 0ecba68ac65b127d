import Box from "@mui/material/Box";
import LinearProgress from "@mui/material/LinearProgress";

/** Shown while a view or its data is on the way. */
export function Waiting({ text = "One moment" }: { text?: string }) {
  return (
    <Box role="status" sx={{ p: 4, color: "text.secondary" }}>
      {text} …
      <LinearProgress aria-hidden="true" sx={{ mt: 1, maxWidth: 240 }} />
    </Box>
  );
}
