import Box from "@mui/material/Box";
import Popover from "@mui/material/Popover";
import { useState } from "react";
import { Link } from "react-router";
import type { Schemas } from "../api/client";
import { SURENESS, shown, withUnit } from "../shell/units";
import { paper } from "../theme/tokens";

interface Props {
  title: string;
  how?: string;
  rules: Schemas["RuleUse"][];
  inputs?: Schemas["InputUse"][];
}

/** The word that opens the reasons of a number. */
export function Why(props: Props) {
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  const isHouse = props.rules.some(isOverridden);
  return (
    <>
      <Box
        component="button"
        type="button"
        className="no-print"
        aria-label={isHouse ? `Why, practice setting: ${props.title}` : `Why: ${props.title}`}
        aria-expanded={anchor !== null}
        onClick={(e) => setAnchor(e.currentTarget)}
        sx={{
          border: 0,
          textDecoration: "underline dotted 1.5px",
          textUnderlineOffset: 3,
          bgcolor: "transparent",
          font: "inherit",
          fontSize: 15,
          color: "text.primary",
          cursor: "pointer",
          px: 0.5,
          py: 0.25,
          whiteSpace: "nowrap",
        }}
      >
        {isHouse ? "why, practice setting" : "why"}
      </Box>
      {anchor && (
        <Popover
          open
          anchorEl={anchor}
          onClose={() => setAnchor(null)}
          transitionDuration={0}
          anchorOrigin={{ vertical: "center", horizontal: "left" }}
          transformOrigin={{ vertical: "center", horizontal: "right" }}
          slotProps={{
            paper: {
              role: "dialog",
              "aria-label": `Why: ${props.title}`,
              sx: { border: `2px solid ${paper.ink}`, maxWidth: 560, p: 2, fontSize: 15 },
            },
          }}
        >
          <Reasons {...props} />
        </Popover>
      )}
    </>
  );
}

function Reasons({ title, how, rules, inputs }: Props) {
  return (
    <>
      <Box component="h2" sx={{ m: 0, mb: 0.5, fontSize: 18 }}>
        {title}
      </Box>
      {how && <Box sx={{ mb: 1, whiteSpace: "pre-line" }}>{how}</Box>}
      {rules.length > 0 && <Heading>Rules</Heading>}
      {rules.map((rule) => (
        <Box key={rule.rule} sx={{ py: 0.5, borderTop: `1px solid ${paper.rule}` }}>
          <Box sx={{ display: "flex", justifyContent: "space-between", gap: 2 }}>
            <span>
              <Link to={`/rules/${rule.rule}`} style={{ color: "inherit" }}>
                {rule.title}
              </Link>
              {rule.school ? ` (${rule.school.replace("_", " ")})` : ""}
            </span>
            <strong style={{ whiteSpace: "nowrap" }}>
              {withUnit(shown(rule.value), rule.unit)}
            </strong>
          </Box>
          <Box sx={{ fontSize: 14, color: "text.secondary" }}>
            {rule.citation} · {SURENESS[rule.sureness]}
            {isOverridden(rule) && (
              <strong>{` · practice setting, default ${shown(rule.default_value ?? 0)}`}</strong>
            )}
          </Box>
        </Box>
      ))}
      {inputs && inputs.length > 0 && <Heading>From</Heading>}
      {inputs?.map((input) => (
        <Box
          key={input.path}
          sx={{ display: "flex", justifyContent: "space-between", gap: 2, py: 0.25, fontSize: 14 }}
        >
          <span>{input.title}</span>
          <span style={{ fontStyle: input.provenance === "handbook" ? "italic" : "normal" }}>
            {input.provenance === "estimated" ? "about " : ""}
            {withUnit(String(input.value), input.unit)} · {input.provenance}
          </span>
        </Box>
      ))}
    </>
  );
}

/** Whether the house has set a rule otherwise. */
function isOverridden(rule: Schemas["RuleUse"]): boolean {
  return rule.default_value !== null && rule.default_value !== undefined;
}

function Heading({ children }: { children: string }) {
  return (
    <Box sx={{ mt: 1, fontWeight: 700, fontSize: 14, color: "text.secondary" }}>{children}</Box>
  );
}
