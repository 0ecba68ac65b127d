import Box from "@mui/material/Box";
import Pagination from "@mui/material/Pagination";
import { useDeferredValue, useState } from "react";
import { Field } from "./Field";
import { Toggles } from "./Toggles";

/** Returns what a long list is narrowed to: by words, to which rows, and the page of it that is shown. */
export function useFinding<Which extends string>(first: Which) {
  const [text, setText] = useState("");
  const [which, setWhich] = useState(first);
  const [page, setPage] = useState(1);
  return {
    text,
    q: useDeferredValue(text),
    which,
    page,
    setPage,
    look: (words: string) => {
      setText(words);
      setPage(1);
    },
    narrow: (to: Which) => {
      setWhich(to);
      setPage(1);
    },
  };
}

interface Props<Which extends string> {
  finding: ReturnType<typeof useFinding<Which>>;
  label: string;
  whichLabel: string;
  options: { value: Which; name: string }[];
  /** Whether one comes to look somebody up, and begins to type at once. */
  isWhatFor?: boolean;
}

/** What a long list is narrowed by. */
export function FindLine<Which extends string>(props: Props<Which>) {
  const { finding, label, whichLabel, options, isWhatFor = false } = props;
  return (
    <Box sx={{ display: "flex", gap: 1.5, flexWrap: "wrap", mb: 1.5 }}>
      <Field
        label={label}
        type="search"
        autoFocus={isWhatFor}
        value={finding.text}
        onChange={finding.look}
        sx={{ width: 360, maxWidth: "100%" }}
      />
      <Toggles
        label={whichLabel}
        value={finding.which}
        options={options}
        onChange={finding.narrow}
      />
    </Box>
  );
}

interface PagesProps {
  finding: { page: number; setPage: (page: number) => void };
  pages: number;
}

/** The pages of a long list, where it has more than one. */
export function Pages({ finding, pages }: PagesProps) {
  if (pages < 2) return null;
  return (
    <Pagination
      sx={{ mt: 2 }}
      count={pages}
      page={finding.page}
      onChange={(_, to) => finding.setPage(to)}
    />
  );
}
