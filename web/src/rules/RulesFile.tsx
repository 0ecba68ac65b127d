import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import { useSession } from "../session/queries";
import { answers } from "../session/roles";
import { FromFile } from "../shell/FromFile";
import { shown, unitOf } from "../shell/units";
import { type Change, type Rule, useChangeRules, useReadRulesFile } from "./queries";

/** The rules as a file: out, and in again after a look at what that would change. */
export function RulesFile({ rules }: { rules: Rule[] }) {
  const { data: session } = useSession();
  const read = useReadRulesFile();
  const keep = useChangeRules();
  return (
    <Box component="section" aria-label="The rules as a file" sx={{ display: "grid", gap: 1 }}>
      <Button
        component="a"
        href="/api/rules-file"
        variant="outlined"
        download
        sx={{ justifySelf: "start" }}
      >
        Save all rules as CSV
      </Button>
      {answers(session?.user?.role) && (
        <FromFile
          label="Take rules from a file"
          listName="What the file would change"
          read={async (text) => {
            const { changes, problems } = await read.mutateAsync(text);
            return { rows: changes, problems };
          }}
          say={(change) => (
            <ChangeLine change={change} rule={rules.find((r) => r.id === change.rule)} />
          )}
          keepName={(count) => `Set ${count === 1 ? "this rule" : `these ${count} rules`}`}
          keep={keep}
          none="No changes: the file matches current settings."
        />
      )}
    </Box>
  );
}

function ChangeLine({ change, rule }: { change: Change; rule: Rule | undefined }) {
  if (!rule) return null;
  const to = change.value === null ? rule.default_value : change.value;
  return (
    <>
      {rule.title}: {shown(rule.value)} → <strong>{shown(to)}</strong> {unitOf(rule.unit)}
      {change.value === null && " (default)"}
      {change.why && `: ${change.why}`}
    </>
  );
}
