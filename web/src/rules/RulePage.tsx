import Box from "@mui/material/Box";
import type { ReactNode } from "react";
import { Link } from "react-router";
import { useSession } from "../session/queries";
import { answers } from "../session/roles";
import { dayOf } from "../session/time";
import { SURENESS, shown, unitOf } from "../shell/units";
import { numerals, paper } from "../theme/tokens";
import { SetRule } from "./SetRule";
import { Sides } from "./Sides";
import type { Dispute, Rule } from "./queries";
import { placeOf } from "./words";

interface Props {
  rule: Rule;
  disputes: Dispute[];
  today: string;
}

/** One rule: its value, where that comes from, where it acts, and what the house sets. */
export function RulePage({ rule, disputes, today }: Props) {
  const { data: session } = useSession();
  const acting = rule.history.find((h) => h.acts && h.value !== null);
  return (
    <Box
      component="article"
      aria-label={rule.title}
      sx={{ p: { xs: 2, md: 3 }, maxWidth: 860, display: "grid", gap: 2 }}
    >
      <Box>
        <Box sx={{ display: { md: "none" }, mb: 1 }}>
          <Link to="/rules" style={{ color: paper.verdigris }}>
            All rules
          </Link>
        </Box>
        <Box component="h1" sx={{ m: 0, fontSize: 22 }}>
          {rule.title}
        </Box>
        <Box sx={{ fontSize: 54, fontWeight: 700, lineHeight: 1.1, ...numerals }} data-value>
          {shown(rule.value)}
          <Box component="span" sx={{ fontSize: 20, fontWeight: 400, ml: 1 }}>
            {unitOf(rule.unit)}
          </Box>
        </Box>
        {acting ? (
          <Box sx={{ borderLeft: `4px solid ${paper.verdigris}`, pl: 1, ...numerals }}>
            <strong>Practice setting</strong> since {dayOf(acting.from_day)}, set by {acting.who}:{" "}
            {acting.why}. Default {shown(rule.default_value)} {unitOf(rule.unit)}.
          </Box>
        ) : (
          <Box sx={{ color: "text.secondary" }}>The rulebook’s own value.</Box>
        )}
      </Box>
      <Scale rule={rule} />
      <Box
        component="dl"
        sx={{
          m: 0,
          display: "grid",
          gridTemplateColumns: "max-content minmax(0, 1fr)",
          columnGap: 2,
          rowGap: 0.75,
          "& dt": { color: "text.secondary" },
          "& dd": { m: 0 },
        }}
      >
        <Fact name="Source">
          {rule.citation} · {SURENESS[rule.sureness]}
        </Fact>
        {rule.note && <Fact name="Note">{rule.note}</Fact>}
        {rule.school && <Fact name="Technique">{rule.school.replaceAll("_", " ")}</Fact>}
        <Fact name="Acts in">{rule.used.join(", ")}</Fact>
        <Fact name="Cited by">
          {rule.plans.length === 0
            ? "no plan that is still to be carried out"
            : rule.plans.map((plan, i) => (
                <span key={plan.restoration_id}>
                  {i > 0 && ", "}
                  <Link to={`/bench/${plan.restoration_id}`} style={{ color: paper.verdigris }}>
                    {plan.tooth} {plan.patient}
                  </Link>
                </span>
              ))}
        </Fact>
      </Box>
      {disputes.map((d) => (
        <Sides key={d.id} dispute={d} />
      ))}
      {answers(session?.user?.role) ? (
        <SetRule rule={rule} today={today} />
      ) : (
        <Box sx={{ color: "text.secondary" }}>A dentist of the practice may change it.</Box>
      )}
      <History rule={rule} today={today} />
    </Box>
  );
}

function Fact({ name, children }: { name: string; children: ReactNode }) {
  return (
    <>
      <dt>{name}</dt>
      <dd>{children}</dd>
    </>
  );
}

const WIDTH = 640;
const EDGE = 8;

/** The range that a house may set, the default as a tick below it and the value as a wedge above it. */
function Scale({ rule }: { rule: Rule }) {
  const x = (value: number) => EDGE + placeOf(value, rule) * (WIDTH - 2 * EDGE);
  const at = x(rule.value);
  return (
    <Box sx={{ fontSize: 14, ...numerals }}>
      <svg
        viewBox={`0 0 ${WIDTH} 40`}
        width="100%"
        style={{ display: "block", maxWidth: WIDTH }}
        role="img"
        aria-label={`${shown(rule.value)} between ${shown(rule.low)} and ${shown(rule.high)} ${unitOf(rule.unit)}, default ${shown(rule.default_value)}`}
      >
        <path
          d={`M${EDGE} 14v12M${WIDTH - EDGE} 14v12M${EDGE} 20H${WIDTH - EDGE}`}
          stroke={paper.ink}
          strokeWidth="1.5"
        />
        <path d={`M${x(rule.default_value)} 20v14`} stroke={paper.ink} strokeWidth="3" />
        <path d={`M${at} 19l-7 -15h14z`} fill={rule.is_house ? paper.verdigris : paper.ink} />
      </svg>
      <Box sx={{ display: "flex", justifyContent: "space-between", maxWidth: WIDTH }}>
        <span>
          {shown(rule.low)} {unitOf(rule.unit)}
        </span>
        <span>
          {shown(rule.high)} {unitOf(rule.unit)}
        </span>
      </Box>
    </Box>
  );
}

/** Who set what, from when on and why; the newest first. */
function History({ rule, today }: { rule: Rule; today: string }) {
  if (rule.history.length === 0) return null;
  return (
    <Box component="section" aria-label="History">
      <Box component="h2" sx={{ m: 0, mb: 0.5, fontSize: 18 }}>
        Practice settings so far
      </Box>
      <Box component="ol" sx={{ listStyle: "none", m: 0, p: 0, ...numerals }}>
        {[...rule.history].reverse().map((h) => (
          <Box
            component="li"
            key={h.noted_at}
            sx={{ py: 0.5, borderTop: `1px solid ${paper.rule}`, fontWeight: h.acts ? 700 : 400 }}
          >
            {h.value === null ? "default again" : `${shown(h.value)} ${unitOf(rule.unit)}`} from{" "}
            {dayOf(h.from_day)}
            {h.from_day > today && " (to come)"}, {h.who}
            {h.why && `: ${h.why}`}
          </Box>
        ))}
      </Box>
    </Box>
  );
}
