import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import { useState } from "react";
import type { Problem } from "../api/client";
import { useSession } from "../session/queries";
import { PickCsv, Problems } from "../shell/PickCsv";
import { Refused } from "../shell/Refused";
import { shown, unitOf } from "../shell/units";
import { numerals, paper } from "../theme/tokens";
import { type Change, type Rule, useChangeRules, useReadRulesFile } from "./queries";

/** The rules as a file: out, and in again after a look at what that would change. */
export function RulesFile({ rules }: { rules: Rule[] }) {
  const { data: session } = useSession();
  const read = useReadRulesFile();
  const keep = useChangeRules();
  const [changes, setChanges] = useState<Change[] | null>(null);
  const [problems, setProblems] = useState<Problem[]>([]);

  function drop() {
    setChanges(null);
    setProblems([]);
  }

  async function take(text: string) {
    drop();
    const found = await read.mutateAsync(text);
    setChanges(found.changes);
    setProblems(found.problems);
  }

  return (
    <Box component="section" aria-label="The rules as a file">
      <Box sx={{ display: "flex", gap: 2, flexWrap: "wrap", alignItems: "center" }}>
        <Button component="a" href="/api/rules-file" variant="outlined" download>
          Save all rules as CSV
        </Button>
        {session?.user?.role === "dentist" && (
          <PickCsv label="Take rules from a file" onText={take} onProblems={setProblems} />
        )}
      </Box>
      <Problems problems={problems} />
      {changes && (
        <Box
          sx={{ mt: 1, p: 1.5, bgcolor: paper.sheet, border: `1.5px dashed ${paper.verdigris}` }}
        >
          {changes.length === 0 && "The file says what holds already: nothing would change."}
          <Box
            component="ul"
            aria-label="What the file would change"
            sx={{ m: 0, p: 0, listStyle: "none", ...numerals }}
          >
            {changes.map((c) => (
              <ChangeLine key={c.rule} change={c} rule={rules.find((r) => r.id === c.rule)} />
            ))}
          </Box>
          <Box sx={{ display: "flex", gap: 1, mt: 1 }}>
            {changes.length > 0 && (
              <Button
                variant="contained"
                disabled={keep.isPending}
                onClick={() => keep.mutate(changes, { onSuccess: drop })}
              >
                Set {changes.length === 1 ? "this rule" : `these ${changes.length} rules`}
              </Button>
            )}
            <Button onClick={drop}>{changes.length > 0 ? "Drop them" : "Close"}</Button>
          </Box>
        </Box>
      )}
      <Refused error={keep.error} />
    </Box>
  );
}

function ChangeLine({ change, rule }: { change: Change; rule: Rule | undefined }) {
  if (!rule) return null;
  const to = change.value === null ? rule.default_value : change.value;
  return (
    <li>
      {rule.title}: {shown(rule.value)} → <strong>{shown(to)}</strong> {unitOf(rule.unit)}
      {change.value === null && " (default)"}
      {change.why && `: ${change.why}`}
    </li>
  );
}
