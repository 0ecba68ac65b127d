import Box from "@mui/material/Box";
import type { Case } from "../api/client";
import { Choice } from "../shell/Choice";
import { useLights } from "./queries";

interface Props {
  data: Case;
  onPick: (part: unknown) => void;
}

/** Which of the practice's lamps the plan goes by. */
export function LampPicker({ data, onPick }: Props) {
  const lights = useLights();
  if (!lights.data) return null;
  const options = lights.data.map((l) => ({ value: l.name, name: l.name }));
  return (
    <div>
      <Box sx={{ fontSize: 14, color: "text.secondary" }}>lamp</Box>
      <Choice
        label="Lamp"
        value={data.light.name ?? ""}
        options={options}
        onChange={(name) => onPick(lights.data.find((l) => l.name === name)?.case_part)}
      />
    </div>
  );
}
