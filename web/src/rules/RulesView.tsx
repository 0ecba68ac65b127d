import Box from "@mui/material/Box";
import { useCallback, useState } from "react";
import { NavLink, useParams } from "react-router";
import type { Schemas } from "../api/client";
import { Choice } from "../shell/Choice";
import { Labelled } from "../shell/Labelled";
import { Trouble } from "../shell/Trouble";
import { Waiting } from "../shell/Waiting";
import { shown, unitOf } from "../shell/units";
import { numerals, paper } from "../theme/tokens";
import { RulePage } from "./RulePage";
import { RulesFile } from "./RulesFile";
import { Sides } from "./Sides";
import { type Rule, useRules } from "./queries";
import { type Part, chaptersOf } from "./words";

const PARTS: { value: Part; name: string }[] = [
  { value: "all", name: "all" },
  { value: "house", name: "house" },
  { value: "disputed", name: "schools differ" },
];

/** Every fact and rule that plans are made by, and what the house has set otherwise. */
export default function RulesView() {
  const rules = useRules();
  if (rules.isPending) return <Waiting />;
  if (rules.isError) return <Trouble error={rules.error} again={() => void rules.refetch()} />;
  return <Rulebook book={rules.data} />;
}

function Rulebook({ book }: { book: Schemas["RulesOut"] }) {
  const { ruleId } = useParams();
  const [search, setSearch] = useState("");
  const [part, setPart] = useState<Part>("all");
  const chapters = chaptersOf(book.rules, book.disputes, search, part);
  const rule = book.rules.find((r) => r.id === ruleId);
  const count = chapters.reduce((sum, chapter) => sum + chapter.rules.length, 0);
  return (
    <Box
      sx={{
        flex: { xs: 1, md: "none" },
        minHeight: 0,
        display: "grid",
        gridTemplateColumns: { xs: "minmax(0, 1fr)", md: "430px minmax(0, 1fr)" },
        gridTemplateRows: { md: "minmax(0, 1fr)" },
        height: { md: "calc(100dvh - 50px)" },
      }}
    >
      <Box
        component="section"
        aria-label="Rules"
        sx={{
          // On a phone one thing at a time.
          display: { xs: rule ? "none" : "flex", md: "flex" },
          flexDirection: "column",
          minHeight: 0,
          borderRight: { md: `1px solid ${paper.rule}` },
        }}
      >
        <Box sx={{ p: 2, pb: 1, display: "grid", gap: 1 }}>
          <Labelled
            name="Search rules, sources, places"
            type="search"
            width="100%"
            value={search}
            onChange={setSearch}
          />
          <Box sx={{ display: "flex", gap: 1, alignItems: "center", flexWrap: "wrap" }}>
            <Choice label="Which rules" value={part} options={PARTS} onChange={setPart} />
            <Box role="status" sx={{ fontSize: 14, color: "text.secondary", ...numerals }}>
              {count} of {book.rules.length}
            </Box>
          </Box>
        </Box>
        <Box component="nav" aria-label="Found" sx={{ overflow: "auto", px: 2, pb: 2 }}>
          {chapters.map((chapter) => (
            <Box key={chapter.id}>
              <Box component="h2" sx={{ m: 0, mt: 1, mb: 0.5, fontSize: 16 }}>
                {chapter.name}
              </Box>
              {chapter.rules.map((r) => (
                <RuleLink key={r.id} rule={r} isShown={r.id === ruleId} />
              ))}
            </Box>
          ))}
          {count === 0 && (
            <Box sx={{ py: 2 }}>
              {part === "house" && search === ""
                ? "The house has set nothing otherwise. Pick a rule under “all” and set a value with its reason."
                : "No rule fits. Try a word of its title, its source, or where it acts."}
            </Box>
          )}
        </Box>
      </Box>
      <Box
        sx={{
          display: { xs: rule ? "block" : "none", md: "block" },
          overflow: "auto",
          minWidth: 0,
        }}
      >
        {rule ? (
          <RulePage
            key={rule.id}
            rule={rule}
            disputes={book.disputes.filter((d) => d.rules.includes(rule.id))}
            today={book.today}
          />
        ) : (
          <Cover book={book} />
        )}
      </Box>
    </Box>
  );
}

function RuleLink({ rule, isShown }: { rule: Rule; isShown: boolean }) {
  const comeIntoView = useCallback(
    (link: HTMLElement | null) => link?.scrollIntoView({ block: "nearest" }),
    [],
  );
  return (
    <Box
      component={NavLink}
      to={`/rules/${rule.id}`}
      ref={isShown ? comeIntoView : null}
      sx={{
        display: "grid",
        gridTemplateColumns: "minmax(0, 1fr) auto",
        columnGap: 1,
        alignItems: "baseline",
        minHeight: 44,
        px: 1,
        py: 0.75,
        color: "inherit",
        textDecoration: "none",
        bgcolor: isShown ? paper.sheet : "transparent",
        borderTop: `1px solid ${paper.rule}`,
        borderLeft: `4px solid ${rule.is_house ? paper.verdigris : "transparent"}`,
        outline: isShown ? `2px solid ${paper.ink}` : 0,
        outlineOffset: -2,
        ...numerals,
      }}
    >
      <span>{rule.title}</span>
      <Box sx={{ textAlign: "right", whiteSpace: "nowrap" }}>
        <strong>{shown(rule.value)}</strong> {unitOf(rule.unit)}
        {rule.is_house && (
          <Box sx={{ fontSize: 14, color: paper.verdigris }}>
            house, default {shown(rule.default_value)}
          </Box>
        )}
      </Box>
    </Box>
  );
}

/** What the rulebook is, what the house has set, where schools differ, and the file. */
function Cover({ book }: { book: Schemas["RulesOut"] }) {
  const own = book.rules.filter((rule) => rule.is_house);
  return (
    <Box sx={{ p: { xs: 2, md: 3 }, maxWidth: 860 }}>
      <Box component="h1" sx={{ m: 0, fontSize: 26 }}>
        Rulebook
      </Box>
      <Box sx={{ mb: 2 }}>
        {book.rules.length} rules, each with its source; {own.length} set by the house. All
        published values were recalled, not looked up: check one before you lean on it.{" "}
        <span style={{ whiteSpace: "nowrap" }}>Version {book.version}.</span>
      </Box>
      <RulesFile rules={book.rules} />
      <Box component="h2" sx={{ mt: 3, mb: 1, fontSize: 18 }}>
        Where schools differ
      </Box>
      {book.disputes.map((d) => (
        <DisputeBox key={d.id} dispute={d} rules={book.rules} />
      ))}
    </Box>
  );
}

function DisputeBox({ dispute, rules }: { dispute: Schemas["DisputeOut"]; rules: Rule[] }) {
  return (
    <Box sx={{ mb: 2 }}>
      <Sides dispute={dispute} />
      <Box sx={{ display: "flex", gap: 2, flexWrap: "wrap" }}>
        {dispute.rules.map((id) => (
          <NavLink
            key={id}
            to={`/rules/${id}`}
            style={{ color: paper.verdigris, padding: "6px 0" }}
          >
            {rules.find((r) => r.id === id)?.title ?? id}
          </NavLink>
        ))}
      </Box>
    </Box>
  );
}
