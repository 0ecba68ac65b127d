import { Field } from "./Field";

interface Props {
  name: string;
  value: string;
  onChange: (text: string) => void;
  /** How wide the field is, px; as its name wants, where it is left out. */
  width?: number | string;
  type?: "text" | "search";
}

const LEAST = 120;
const LETTER = 7.6;

/** A field on a line with others, as wide as its name or what is typed into it. */
export function Labelled({ name, value, onChange, width, type = "text" }: Props) {
  const wide = width ?? Math.max(LEAST, 36 + LETTER * name.length);
  return (
    <Field
      label={name}
      type={type}
      value={value}
      autoComplete="off"
      onChange={onChange}
      sx={{ width: wide, maxWidth: "100%" }}
    />
  );
}
