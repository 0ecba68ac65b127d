import Box from "@mui/material/Box";
import { useState } from "react";
import { NavLink, useParams } from "react-router";
import type { Schemas } from "../api/client";
import { Choice } from "../shell/Choice";
import { Trouble } from "../shell/Trouble";
import { ListHeading, ListLink, TwoPanes } from "../shell/TwoPanes";
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
  { value: "house", name: "practice" },
  { value: "disputed", name: "techniques differ" },
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
    <TwoPanes
      label="Rules"
      searchName="Search rules, sources, places"
      search={search}
      onSearch={setSearch}
      listWidth={430}
      isOneShown={rule !== undefined}
      filter={
        <>
          <Choice label="Which rules" value={part} options={PARTS} onChange={setPart} />
          <Box role="status" sx={{ fontSize: 14, color: "text.secondary", ...numerals }}>
            {count} of {book.rules.length}
          </Box>
        </>
      }
      list={
        <>
          {chapters.map((chapter) => (
            <Box key={chapter.id}>
              <ListHeading>{chapter.name}</ListHeading>
              {chapter.rules.map((r) => (
                <RuleLink key={r.id} rule={r} isShown={r.id === ruleId} />
              ))}
            </Box>
          ))}
          {count === 0 && (
            <Box sx={{ py: 2 }}>
              {part === "house" && search === ""
                ? "No practice settings. Choose a rule under “all” and set a value with its reason."
                : "No rule fits. Try a word of its title, its source, or where it acts."}
            </Box>
          )}
        </>
      }
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
    </TwoPanes>
  );
}

function RuleLink({ rule, isShown }: { rule: Rule; isShown: boolean }) {
  return (
    <ListLink
      to={`/rules/${rule.id}`}
      isShown={isShown}
      isMarked={rule.is_house}
      columns="minmax(0, 1fr) auto"
    >
      <span>{rule.title}</span>
      <Box sx={{ textAlign: "right", whiteSpace: "nowrap" }}>
        <strong>{shown(rule.value)}</strong> {unitOf(rule.unit)}
        {rule.is_house && (
          <Box sx={{ fontSize: 14, color: paper.verdigris }}>
            practice, default {shown(rule.default_value)}
          </Box>
        )}
      </Box>
    </ListLink>
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
        {book.rules.length} rules, each with its source; {own.length} set by the practice. All
        published values were recalled, not looked up: verify one before you rely on it.{" "}
        <span style={{ whiteSpace: "nowrap" }}>Version {book.version}.</span>
      </Box>
      <RulesFile rules={book.rules} />
      <Box component="h2" sx={{ mt: 3, mb: 1, fontSize: 18 }}>
        Where techniques differ
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
