import Box from "@mui/material/Box";
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
    <Box
      role="radiogroup"
      aria-label={label}
      sx={{ display: "inline-flex", border: `1.5px solid ${paper.ink}` }}
    >
      {options.map((option, i) => {
        const on = option.value === value;
        return (
          <Box
            key={option.value}
            component="button"
            type="button"
            role="radio"
            aria-checked={on}
            onClick={() => onChange(option.value)}
            sx={{
              border: 0,
              borderLeft: i ? `1px solid ${paper.ink}` : 0,
              bgcolor: on ? paper.ink : "transparent",
              color: on ? paper.sheet : paper.ink,
              font: "inherit",
              fontSize: 15,
              px: { xs: 1, lg: 1.2 },
              minHeight: 38,
              cursor: "pointer",
              whiteSpace: "nowrap",
            }}
          >
            {option.name}
          </Box>
        );
      })}
    </Box>
  );
}
