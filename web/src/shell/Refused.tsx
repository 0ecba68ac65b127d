import Box from "@mui/material/Box";
import { saidBy } from "./said";

/** What a call was refused for, below what was tried. */
export function Refused({ error }: { error: Error | null }) {
  if (!error) return null;
  return (
    <Box role="alert" sx={{ color: "error.main", mt: 1 }}>
      {saidBy(error)}
    </Box>
  );
}
