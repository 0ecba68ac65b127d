import Box from "@mui/material/Box";
import Radio from "@mui/material/Radio";
import RadioGroup from "@mui/material/RadioGroup";
import { paper } from "../theme/tokens";

interface Props<T extends string> {
  label: string;
  value: T;
  options: { value: T; name: string }[];
  onChange: (value: T) => void;
}

/** One of a few, as a row of cells; the chosen one is inked. */
export function Choice<T extends string>({ label, value, options, onChange }: Props<T>) {
  return (
    <RadioGroup
      row
      aria-label={label}
      value={value}
      onChange={(_, picked) => onChange(picked as T)}
      sx={{ display: "inline-flex", flexWrap: "nowrap", border: `1.5px solid ${paper.ink}` }}
    >
      {options.map((option, i) => (
        <Box
          key={option.value}
          component="label"
          sx={{
            position: "relative",
            display: "flex",
            alignItems: "center",
            borderLeft: i ? `1px solid ${paper.ink}` : 0,
            bgcolor: option.value === value ? paper.ink : "transparent",
            color: option.value === value ? paper.sheet : paper.ink,
            fontSize: 15,
            px: { xs: 1, lg: 1.2 },
            minHeight: 38,
            whiteSpace: "nowrap",
            "&:has(:focus-visible)": { outline: `3px solid ${paper.beam}`, outlineOffset: 1 },
          }}
        >
          <Radio
            value={option.value}
            sx={{ position: "absolute", inset: 0, opacity: 0, borderRadius: 0 }}
          />
          {option.name}
        </Box>
      ))}
    </RadioGroup>
  );
}
