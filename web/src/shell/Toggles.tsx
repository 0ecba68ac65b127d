import ToggleButton from "@mui/material/ToggleButton";
import ToggleButtonGroup from "@mui/material/ToggleButtonGroup";
import { paper } from "../theme/tokens";

const FEW = 4;
/** Many go over several lines, each with a frame of its own. */
const APART = {
  flexWrap: "wrap",
  gap: 0.75,
  "& .MuiToggleButtonGroup-grouped": { ml: 0, borderLeft: `1.5px solid ${paper.verdigris}` },
} as const;

interface Props<T extends string> {
  label: string;
  value: T;
  options: { value: T; name: string }[];
  onChange: (value: T) => void;
}

/** One of a few, side by side. */
export function Toggles<T extends string>({ label, value, options, onChange }: Props<T>) {
  return (
    <ToggleButtonGroup
      exclusive
      aria-label={label}
      value={value}
      onChange={(_, picked: T | null) => picked !== null && onChange(picked)}
      sx={options.length > FEW ? APART : undefined}
    >
      {options.map((option) => (
        <ToggleButton key={option.value} value={option.value}>
          {option.name}
        </ToggleButton>
      ))}
    </ToggleButtonGroup>
  );
}
