import { LocalizationProvider } from "@mui/x-date-pickers/LocalizationProvider";
import { AdapterDayjs } from "@mui/x-date-pickers/AdapterDayjs";
import { DatePicker } from "@mui/x-date-pickers/DatePicker";
import { TimeField } from "@mui/x-date-pickers/TimeField";
import dayjs, { type Dayjs } from "dayjs";
import "dayjs/locale/en-gb";
import { useState } from "react";
import { paper } from "../theme/tokens";
import { saidOf } from "./Field";

interface Props {
  label: string;
  /** A day as 2027-01-31, or a time of day as 14:30; nothing while there is none. */
  value: string;
  onChange: (value: string) => void;
  /** What the server calls it. */
  path?: string;
  refused?: Error | null;
  sx?: { width: number };
  /** What its calendar begins with: the year, where a day is long ago. */
  openTo?: "year" | "day";
}

/** As other fields look. */
const LOOK = {
  "& .MuiPickersInputBase-root": { bgcolor: paper.sheet, fontSize: 17, fontWeight: 700 },
  "& .MuiPickersOutlinedInput-notchedOutline": {
    borderColor: paper.verdigris,
    borderWidth: 1.5,
  },
};
const DAY = "YYYY-MM-DD";
const TIME = "HH:mm";

/** A day, typed or picked, written the same on every device. */
export function DayField(props: Props) {
  const [held, hold] = useHeld(props, DAY, (value) => dayjs(value));
  return (
    <LocalizationProvider dateAdapter={AdapterDayjs} adapterLocale="en-gb">
      <DatePicker
        label={props.label}
        value={held}
        onChange={hold}
        format="DD MMM YYYY"
        openTo={props.openTo ?? "day"}
        sx={{ ...LOOK, ...props.sx }}
        slotProps={{ textField: { size: "small", ...said(props) } }}
      />
    </LocalizationProvider>
  );
}

/** A time of day, in 24 hours. */
export function TimeOfDay(props: Props) {
  const [held, hold] = useHeld(props, TIME, (value) => dayjs(`2000-01-01T${value}`));
  return (
    <LocalizationProvider dateAdapter={AdapterDayjs} adapterLocale="en-gb">
      <TimeField
        label={props.label}
        value={held}
        onChange={hold}
        ampm={false}
        size="small"
        sx={{ ...LOOK, ...props.sx }}
        {...said(props)}
      />
    </LocalizationProvider>
  );
}

function said({ refused, path = "" }: Props) {
  const text = saidOf(refused, path);
  return { error: text !== "", helperText: text };
}

/** Returns what is shown, as far as it is typed, and how to hold something else. */
function useHeld(
  { value, onChange }: Props,
  format: string,
  read: (value: string) => Dayjs,
): [Dayjs | null, (held: Dayjs | null) => void] {
  const [held, setHeld] = useState<Dayjs | null>(null);
  const told = (one: Dayjs | null) => (one?.isValid() ? one.format(format) : "");
  const shown = value !== "" && told(held) !== value ? read(value) : held;
  return [
    shown,
    (now) => {
      setHeld(now);
      onChange(told(now));
    },
  ];
}
