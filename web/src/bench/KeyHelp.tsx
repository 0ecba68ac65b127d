import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Dialog from "@mui/material/Dialog";
import { paper } from "../theme/tokens";
import { KEYS } from "./useBenchKeys";

/** All keys of the bench. */
export function KeyHelp({ open, onClose }: { open: boolean; onClose: () => void }) {
  return (
    <Dialog
      open={open}
      onClose={onClose}
      aria-labelledby="keys"
      transitionDuration={0}
      slotProps={{ paper: { elevation: 0, sx: { border: `2px solid ${paper.ink}`, p: 3 } } }}
    >
      <Box component="h2" id="keys" sx={{ m: 0, mb: 1, fontSize: 20 }}>
        Keys
      </Box>
      <Box component="dl" sx={{ display: "grid", gridTemplateColumns: "90px 1fr", gap: 1, m: 0 }}>
        {KEYS.map(([key, what]) => (
          <Box key={key} sx={{ display: "contents" }}>
            <Box component="dt" sx={{ fontWeight: 700 }}>
              {key}
            </Box>
            <Box component="dd" sx={{ m: 0 }}>
              {what}
            </Box>
          </Box>
        ))}
      </Box>
      <Button sx={{ mt: 2, alignSelf: "end" }} variant="outlined" onClick={onClose}>
        Close
      </Button>
    </Dialog>
  );
}
