import { styled } from "@mui/material/styles";
import { paper } from "../theme/tokens";

const look = {
  boxSizing: "border-box",
  width: "100%",
  minHeight: 40,
  padding: "4px 2px 4px 6px",
  font: "inherit",
  fontSize: 15,
  textOverflow: "ellipsis",
  color: "inherit",
  backgroundColor: paper.sheet,
  borderWidth: 1.5,
  borderRadius: 0,
  "&::placeholder": { color: paper.soft, fontWeight: 400 },
} as const;

/** What a stage's notes are filled in with. */
export const Typed = styled("input")(look);
export const Pick = styled("select")(look);
