import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import { useNavigate } from "react-router";
import type { Schemas } from "../api/client";
import { DayField } from "../shell/DayField";
import { Toggles } from "../shell/Toggles";
import { onDay } from "../session/time";

interface Props {
  told: Schemas["TodayOut"];
  count: number;
  chair: string;
  onChair: (chair: string) => void;
}

const EARLIEST = "2000-01-01";

/** Which day is shown, and of which chair. */
export function DayLine({ told, count, chair, onChair }: Props) {
  const navigate = useNavigate();
  const go = (day: string) => void navigate(day ? `/day/${day}` : "/");
  return (
    <Box sx={{ display: "flex", flexWrap: "wrap", gap: 1.5, alignItems: "center", mb: 2 }}>
      <Box>
        <Box component="h1" sx={{ m: 0, fontSize: 26, lineHeight: 1.1 }}>
          {onDay(told.day).named}
        </Box>
        <Box sx={{ color: "text.secondary" }}>{count} restorations</Box>
      </Box>
      <Box sx={{ ml: "auto", display: "flex", flexWrap: "wrap", gap: 1, alignItems: "center" }}>
        <Toggles
          label="Chair"
          value={chair}
          options={[
            { value: "", name: "all chairs" },
            ...told.chairs.map((one) => ({ value: one, name: one })),
          ]}
          onChange={onChair}
        />
        <Box sx={{ display: "flex", gap: 1 }}>
          <Button
            variant="outlined"
            aria-label="Previous day"
            onClick={() => go(onDay(told.day).before)}
          >
            ‹
          </Button>
          <DayField
            label="Day"
            value={told.day}
            // Half a year typed is none that anybody looks for.
            onChange={(day) => day >= EARLIEST && go(day)}
            sx={{ width: 190 }}
          />
          <Button
            variant="outlined"
            aria-label="Next day"
            onClick={() => go(onDay(told.day).after)}
          >
            ›
          </Button>
        </Box>
        {!told.is_today && <Button onClick={() => go("")}>Today</Button>}
      </Box>
    </Box>
  );
}
