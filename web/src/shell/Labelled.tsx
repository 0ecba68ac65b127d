import { styled } from "@mui/material/styles";
import { paper } from "../theme/tokens";

const Entry = styled("input")({
  display: "block",
  boxSizing: "border-box",
  maxWidth: "100%",
  font: "inherit",
  fontSize: 18,
  fontWeight: 700,
  height: 42,
  padding: "6px 8px",
  border: `1.5px solid ${paper.verdigris}`,
  backgroundColor: paper.sheet,
  color: "inherit",
});

interface Props {
  name: string;
  value: string;
  onChange: (text: string) => void;
  /** How wide the field is, px. */
  width?: number | string;
  type?: "text" | "search";
}

/** A field to type in, its name above it. */
export function Labelled({ name, value, onChange, width = 120, type = "text" }: Props) {
  return (
    <label style={{ fontSize: 14 }}>
      {name}
      <Entry
        type={type}
        value={value}
        autoComplete="off"
        style={{ width }}
        onChange={(e) => onChange(e.target.value)}
      />
    </label>
  );
}
