import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import { type FormEvent, useState } from "react";
import { ApiError } from "../api/client";
import { DayField } from "../shell/DayField";
import { Labelled } from "../shell/Labelled";
import { numberIn } from "../shell/numbers";
import { shown, unitOf } from "../shell/units";
import { type Rule, useChangeRules } from "./queries";

/** Sets a rule for the house, from a day on and with a reason, or takes that back in one step. */
export function SetRule({ rule, today }: { rule: Rule; today: string }) {
  const [value, setValue] = useState("");
  const [why, setWhy] = useState("");
  const [day, setDay] = useState(today);
  const change = useChangeRules();
  const number = numberIn(value);
  const coming = rule.history.filter((h) => h.from_day > today).at(-1);

  function submit(event: FormEvent) {
    event.preventDefault();
    change.mutate([{ rule: rule.id, value: number, why, from_day: day || null }], {
      onSuccess: () => {
        setValue("");
        setWhy("");
        setDay(today);
      },
    });
  }

  function stepBack(from_day: string | null) {
    change.mutate([{ rule: rule.id, value: null, why: "", from_day }]);
  }

  return (
    <Box component="section" aria-label="Set for the practice">
      <Box component="h2" sx={{ m: 0, mb: 1, fontSize: 18 }}>
        Set for the practice
      </Box>
      <Box
        component="form"
        onSubmit={submit}
        sx={{ display: "flex", gap: 2, alignItems: "end", flexWrap: "wrap" }}
      >
        <Labelled
          name={`value, ${unitOf(rule.unit)}`}
          value={value}
          onChange={setValue}
          width={110}
        />
        <Labelled name="why" value={why} onChange={setWhy} width={300} />
        <DayField label="from" value={day} onChange={setDay} sx={{ width: 190 }} />
        <Button
          type="submit"
          variant="contained"
          disabled={!Number.isFinite(number) || change.isPending}
        >
          Set
        </Button>
      </Box>
      <Box sx={{ display: "flex", gap: 1, flexWrap: "wrap", mt: 1 }}>
        {rule.is_house && (
          <Button variant="outlined" disabled={change.isPending} onClick={() => stepBack(null)}>
            Back to the default, {shown(rule.default_value)} {unitOf(rule.unit)}
          </Button>
        )}
        {coming && coming.value !== null && (
          <Button
            variant="outlined"
            disabled={change.isPending}
            onClick={() => stepBack(coming.from_day)}
          >
            Cancel the coming change
          </Button>
        )}
      </Box>
      {change.isError && (
        <Box role="alert" sx={{ color: "error.main", mt: 1 }}>
          {refusedBy(change.error)}
        </Box>
      )}
    </Box>
  );
}

const FIELDS: Record<string, string> = { value: "Value", why: "Why", from: "From", rule: "Rule" };

/** What was refused, by the field of this form. */
function refusedBy(error: Error): string {
  if (!(error instanceof ApiError) || error.problems.length === 0) return error.message;
  return error.problems
    .map(
      (p) => `${FIELDS[p.path.split(".").at(-1) ?? ""] ?? p.path}: ${p.got}? Allowed: ${p.allowed}`,
    )
    .join(" ");
}
