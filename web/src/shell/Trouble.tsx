import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import { paper } from "../theme/tokens";

/** Says what went wrong and what to do. */
export function Trouble({ error, again }: { error: Error; again?: () => void }) {
  return (
    <Box
      role="alert"
      sx={{ m: 3, p: 2, border: `1.5px solid ${paper.brick}`, bgcolor: paper.sheet, maxWidth: 640 }}
    >
      <strong>That did not work.</strong> {error.message}
      {again && (
        <Box sx={{ mt: 1 }}>
          <Button variant="outlined" onClick={again}>
            Try again
          </Button>
        </Box>
      )}
    </Box>
  );
}
