import Box from "@mui/material/Box";
import { paper } from "../theme/tokens";

interface Props {
  name: string;
  options: { name: string; title?: string; isTaken: boolean; onToggle: () => void }[];
}

/** Things of which any may be taken, each with its own button. */
export function Picks({ name, options }: Props) {
  return (
    <Box role="group" aria-label={name} sx={{ gridColumn: "1 / -1" }}>
      <Box sx={{ fontSize: 14 }}>{name}</Box>
      <Box sx={{ display: "flex", flexWrap: "wrap", gap: 0.5 }}>
        {options.map((option) => (
          <Box
            component="button"
            type="button"
            key={option.name}
            aria-pressed={option.isTaken}
            aria-label={option.title}
            title={option.title}
            onClick={option.onToggle}
            sx={{
              minHeight: 40,
              px: 1,
              font: "inherit",
              fontSize: 15,
              fontWeight: option.isTaken ? 700 : 400,
              cursor: "pointer",
              color: option.isTaken ? paper.sheet : "text.primary",
              bgcolor: option.isTaken ? paper.ink : paper.sheet,
              border: `1.5px solid ${option.isTaken ? paper.ink : paper.verdigris}`,
            }}
          >
            {option.name}
          </Box>
        ))}
      </Box>
    </Box>
  );
}
