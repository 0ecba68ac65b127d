import Alert from "@mui/material/Alert";
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Dialog from "@mui/material/Dialog";
import DialogActions from "@mui/material/DialogActions";
import DialogContent from "@mui/material/DialogContent";
import DialogTitle from "@mui/material/DialogTitle";
import type { FormEvent, ReactNode } from "react";

interface Props {
  title: string;
  submitName: string;
  isPending: boolean;
  /** What it was refused for besides its fields. */
  said: string;
  /** Whether what it was refused for can be overruled. */
  isAsked?: boolean;
  width?: "xs" | "sm";
  /** What else can be done, beside the main button. */
  others?: ReactNode;
  onSubmit: () => void;
  onDone: () => void;
  /** Forgets what was typed: Cancel means it, a tap beside the form does not. */
  onForget?: () => void;
  children: ReactNode;
}

/** A form over the page: its fields, what it was refused for, and its one main button. */
export function FormDialog(props: Props) {
  const { title, submitName, isPending, said, isAsked, width = "sm", others } = props;

  function submit(event: FormEvent) {
    event.preventDefault();
    props.onSubmit();
  }

  return (
    <Dialog open onClose={props.onDone} maxWidth={width} fullWidth>
      <Box
        component="form"
        onSubmit={submit}
        noValidate
        // The fields scroll, the main button stays in sight.
        sx={{ display: "flex", flexDirection: "column", minHeight: 0 }}
      >
        <DialogTitle>{title}</DialogTitle>
        <DialogContent
          sx={{
            display: "grid",
            gridTemplateColumns: "minmax(0, 1fr)",
            gap: 2,
            pt: "8px !important",
          }}
        >
          {props.children}
          {said && <Alert severity={isAsked ? "warning" : "error"}>{said}</Alert>}
        </DialogContent>
        <DialogActions>
          <Button
            onClick={() => {
              props.onForget?.();
              props.onDone();
            }}
          >
            Cancel
          </Button>
          {others}
          <Button type="submit" variant="contained" disabled={isPending}>
            {submitName}
          </Button>
        </DialogActions>
      </Box>
    </Dialog>
  );
}
