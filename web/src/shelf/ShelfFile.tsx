import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import { useState } from "react";
import type { Problem } from "../api/client";
import { dayOf } from "../session/time";
import { PickCsv, Problems } from "../shell/PickCsv";
import { Refused } from "../shell/Refused";
import { numerals, paper } from "../theme/tokens";
import { type Row, useKeepRows, useReadShelfFile } from "./queries";
import { KINDS } from "./words";

const SHOWN = 12;

/** The shelf as a file: out, and in again row by row. */
export function ShelfFile() {
  const read = useReadShelfFile();
  const keep = useKeepRows();
  const [rows, setRows] = useState<Row[]>([]);
  const [problems, setProblems] = useState<Problem[]>([]);

  function drop() {
    setRows([]);
    setProblems([]);
  }

  async function take(text: string) {
    drop();
    const found = await read.mutateAsync(text);
    setRows(found.rows);
    setProblems(found.problems);
  }

  return (
    <Box component="section" aria-label="The shelf as a file">
      <Box sx={{ display: "flex", gap: 2, flexWrap: "wrap", alignItems: "center" }}>
        <Button component="a" href="/api/shelf-file" variant="outlined" download>
          Save the shelf as CSV
        </Button>
        <PickCsv label="Take things from a file" onText={take} onProblems={setProblems} />
      </Box>
      <Problems problems={problems} />
      {rows.length > 0 && (
        <Box
          sx={{ mt: 1, p: 1.5, bgcolor: paper.sheet, border: `1.5px dashed ${paper.verdigris}` }}
        >
          <Box
            component="ul"
            aria-label="Rows not kept yet"
            sx={{ m: 0, p: 0, listStyle: "none", ...numerals }}
          >
            {rows.slice(0, SHOWN).map((row, i) => (
              <li key={`${row.kind} ${row.name} ${row.lot} ${i}`}>
                <strong>{row.name}</strong>, {KINDS[row.kind]?.toLowerCase()}
                {row.lot && `, lot ${row.lot}`}
                {row.count !== null && row.count !== undefined && `, ${row.count} packages`}
                {row.expires_on && `, use by ${dayOf(row.expires_on)}`}
              </li>
            ))}
            {rows.length > SHOWN && <li>and {rows.length - SHOWN} more</li>}
          </Box>
          <Box sx={{ display: "flex", gap: 1, mt: 1 }}>
            <Button
              variant="contained"
              disabled={keep.isPending}
              onClick={() => keep.mutate(rows, { onSuccess: drop })}
            >
              Put {rows.length === 1 ? "this row" : `these ${rows.length} rows`} on the shelf
            </Button>
            <Button onClick={drop}>Drop them</Button>
          </Box>
        </Box>
      )}
      <Refused error={keep.error} />
    </Box>
  );
}
