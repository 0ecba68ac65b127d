import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import { type ReactNode, useState } from "react";
import type { Problem } from "../api/client";
import { numerals, paper } from "../theme/tokens";
import { PickCsv, Problems } from "./PickCsv";
import { Refused } from "./Refused";

interface Props<T> {
  /** What the file button says, where files may be taken from. */
  label: string;
  /** What the list of good rows is called. */
  listName: string;
  /** Reads a file's text, without keeping anything. */
  read: (text: string) => Promise<{ rows: T[]; problems: Problem[] }>;
  /** Says a row in a line. */
  say: (row: T) => ReactNode;
  /** What the button that keeps so many rows says. */
  keepName: (count: number) => string;
  keep: {
    mutate: (rows: T[], after: { onSuccess: () => void }) => void;
    isPending: boolean;
    error: Error | null;
  };
  /** Said where the file has no row to keep. */
  none: string;
}

const SHOWN = 12;

/** Rows out of a CSV file: bad ones named, good ones seen before they are kept. */
export function FromFile<T>({ label, listName, read, say, keepName, keep, none }: Props<T>) {
  const [rows, setRows] = useState<T[] | null>(null);
  const [problems, setProblems] = useState<Problem[]>([]);

  function drop() {
    setRows(null);
    setProblems([]);
  }

  async function take(text: string) {
    drop();
    const found = await read(text);
    setRows(found.rows);
    setProblems(found.problems);
  }

  return (
    <>
      <PickCsv label={label} onText={take} onProblems={setProblems} />
      <Problems problems={problems} />
      {rows && (
        <Box
          sx={{ mt: 1, p: 1.5, bgcolor: paper.sheet, border: `1.5px dashed ${paper.verdigris}` }}
        >
          {rows.length === 0 && none}
          <Box
            component="ul"
            aria-label={listName}
            sx={{ m: 0, p: 0, listStyle: "none", ...numerals }}
          >
            {rows.slice(0, SHOWN).map((row, i) => (
              <li key={i}>{say(row)}</li>
            ))}
            {rows.length > SHOWN && <li>and {rows.length - SHOWN} more</li>}
          </Box>
          <Box sx={{ display: "flex", gap: 1, mt: 1 }}>
            {rows.length > 0 && (
              <Button
                variant="contained"
                disabled={keep.isPending}
                onClick={() => keep.mutate(rows, { onSuccess: drop })}
              >
                {keepName(rows.length)}
              </Button>
            )}
            <Button onClick={drop}>{rows.length > 0 ? "Drop them" : "Close"}</Button>
          </Box>
        </Box>
      )}
      <Refused error={keep.error} />
    </>
  );
}
