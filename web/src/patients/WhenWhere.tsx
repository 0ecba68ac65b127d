import Box from "@mui/material/Box";
import MenuItem from "@mui/material/MenuItem";
import TextField from "@mui/material/TextField";
import { useSession } from "../session/queries";
import { DayField, TimeOfDay } from "../shell/DayField";
import { useColleagues } from "./queries";

export interface Slot {
  day: string;
  time: string;
  chair: string;
  /** The id of who treats. */
  dentist: string;
}

interface Props {
  slot: Slot;
  onChange: (slot: Slot) => void;
  refused: Error | null;
}

/** When a visit is, in which chair, and who treats. */
export function WhenWhere({ slot, onChange, refused }: Props) {
  const chairs = useSession().data?.user?.chairs ?? [];
  const colleagues = useColleagues().data ?? [];
  const set = (name: keyof Slot) => (value: string) => onChange({ ...slot, [name]: value });
  return (
    <Box sx={{ display: "grid", gap: 2, gridTemplateColumns: { sm: "1fr 1fr" } }}>
      <DayField
        label="Day"
        path="starts_at"
        value={slot.day}
        onChange={set("day")}
        refused={refused}
      />
      <TimeOfDay label="Time" value={slot.time} onChange={set("time")} />
      <TextField
        select
        size="small"
        label="Chair"
        value={slot.chair}
        onChange={(event) => set("chair")(event.target.value)}
      >
        {chairs.map((chair) => (
          <MenuItem key={chair} value={chair}>
            {chair}
          </MenuItem>
        ))}
      </TextField>
      <TextField
        select
        size="small"
        label="Who treats"
        value={colleagues.length > 0 ? slot.dentist : ""}
        onChange={(event) => set("dentist")(event.target.value)}
      >
        {colleagues.map((one) => (
          <MenuItem key={one.id} value={String(one.id)}>
            {one.full_name}
          </MenuItem>
        ))}
      </TextField>
    </Box>
  );
}
