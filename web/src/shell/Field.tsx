import TextField, { type TextFieldProps } from "@mui/material/TextField";
import { ApiError } from "../api/client";

type Props = Omit<TextFieldProps, "onChange" | "value" | "error"> & {
  value: string;
  onChange: (text: string) => void;
  /** What the server calls it. */
  path?: string;
  /** What it was refused for, if it was. */
  refused?: Error | null;
};

/** What a refused call says of one field: what was given, and what is allowed. */
export function saidOf(refused: Error | null | undefined, path: string): string {
  const problems = refused instanceof ApiError ? refused.problems : [];
  const own = problems.find((problem) => problem.path === path);
  return own
    ? `${["''", "nothing"].includes(own.got) ? "Nothing" : own.got}? Allowed: ${own.allowed}`
    : "";
}

/** A field of a form that tells beside itself what is wrong with it. */
export function Field({ value, onChange, path = "", refused, helperText, ...others }: Props) {
  const said = saidOf(refused, path);
  return (
    <TextField
      size="small"
      {...others}
      value={value}
      error={said !== ""}
      helperText={said || helperText}
      onChange={(event) => onChange(event.target.value)}
      slotProps={{
        ...others.slotProps,
        ...(others.type === "date" || others.type === "time"
          ? { inputLabel: { shrink: true } }
          : {}),
      }}
    />
  );
}

/** What a form was refused for besides its fields. */
export function otherwise(error: Error | null, paths: string[]): string {
  if (!error) return "";
  const problems = error instanceof ApiError ? error.problems : [];
  if (problems.length === 0) return error.message;
  return problems
    .filter((problem) => !paths.includes(problem.path))
    .map((problem) => `${problem.got}? Allowed: ${problem.allowed}`)
    .join("; ");
}
