import Box from "@mui/material/Box";
import { paper } from "../theme/tokens";

interface Props {
  parts: string[];
  taken: string;
  onTake: (part: string) => void;
}

/** The parts of a preparation that has many: one at a time is measured. */
export function PartChips({ parts, taken, onTake }: Props) {
  return (
    <Box
      role="group"
      aria-label="Part"
      sx={{ gridColumn: "1 / -1", display: "flex", flexWrap: "wrap", gap: 0.75 }}
    >
      {parts.map((part) => (
        <Box
          component="button"
          type="button"
          key={part}
          aria-pressed={part === taken}
          onClick={() => onTake(part)}
          sx={{
            minHeight: 40,
            px: 1.25,
            font: "inherit",
            fontSize: 15,
            cursor: "pointer",
            color: part === taken ? paper.sheet : "text.primary",
            bgcolor: part === taken ? paper.ink : paper.sheet,
            border: `1.5px solid ${part === taken ? paper.ink : paper.verdigris}`,
          }}
        >
          {part}
        </Box>
      ))}
    </Box>
  );
}
