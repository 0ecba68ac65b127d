import Box from "@mui/material/Box";
import { styled } from "@mui/material/styles";
import { memo } from "react";
import type { Figure, Plan, Step } from "../api/client";
import { useGlimpsedFigure } from "../drawing/glimpses";
import { Verdict } from "../shell/Verdict";
import { apart, numerals, paper } from "../theme/tokens";
import { Why } from "./Why";

interface Props {
  plan: Plan;
}

interface ReckoningProps extends Props {
  /** The step pointed at on the tape: the figures that it is part of are marked. */
  step: Step | null;
  /** Tells which figure is pointed at, and null once none is. */
  onPoint: (figure: Figure | null) => void;
  /** Two in a row and without what is beside each, while a stage is open. */
  isShort: boolean;
}

/** The few big numbers, each with its why. */
export const Reckoning = memo(function Reckoning({ plan, step, onPoint, isShort }: ReckoningProps) {
  return (
    <Box sx={isShort ? { display: "grid", gridTemplateColumns: "1fr 1fr", columnGap: 2 } : {}}>
      {plan.figures.map((figure) => (
        <Box
          key={figure.id}
          data-figure={figure.id}
          data-lit={step ? figure.steps?.includes(step.id) : undefined}
          onPointerEnter={() => onPoint(figure)}
          onPointerLeave={() => onPoint(null)}
          onFocus={() => onPoint(figure)}
          onBlur={() => onPoint(null)}
          sx={{
            ...apart,
            "&[data-lit=true]": { boxShadow: `-8px 0 0 ${paper.sheet}, -12px 0 0 ${paper.beam}` },
            display: "grid",
            gridTemplateColumns: isShort ? "minmax(0, 1fr)" : "minmax(0, 1fr) 150px",
            alignItems: "center",
            alignContent: "start",
            borderBottom: `1px solid ${paper.rule}`,
            py: isShort ? 0.25 : 0.5,
          }}
        >
          <Box
            component="span"
            sx={isShort ? { fontSize: 14, lineHeight: 1.2, color: "text.secondary" } : {}}
          >
            {figure.title}
          </Box>
          {!isShort && <Value figure={figure} />}
          <Box
            sx={{
              gridColumn: "1 / -1",
              display: "flex",
              justifyContent: "space-between",
              gap: 1,
              fontSize: 14,
              color: "text.secondary",
            }}
          >
            {isShort ? <Value figure={figure} isShort /> : <Detail figure={figure} />}
            <Why
              title={figure.title}
              how={figure.how}
              rules={figure.rules}
              inputs={figure.inputs}
            />
          </Box>
        </Box>
      ))}
    </Box>
  );
});

/** As large as its place whatever the number, so that one that moves leaves all else where it lies. */
const Amount = styled("div")({
  contain: "strict",
  height: 36,
  textAlign: "right",
  whiteSpace: "nowrap",
  fontSize: 34,
  fontWeight: 700,
  lineHeight: "36px",
  ...numerals,
});

const SHORT = {
  height: 28,
  flexGrow: 1,
  fontSize: 22,
  lineHeight: "28px",
  textAlign: "left",
  color: paper.ink,
} as const;

const Unit = styled("span")({ fontSize: 15, fontWeight: 400, color: paper.soft, marginLeft: 4 });

/** The value of a figure, or that of a drag that is on. */
function Value({ figure, isShort = false }: { figure: Figure; isShort?: boolean }) {
  const { value, unit } = useGlimpsedFigure(figure.id) ?? figure;
  return (
    <Amount style={isShort ? SHORT : undefined}>
      {value}
      {/* Of several words the first, where two stand in a row. */}
      <Unit>{isShort ? unit.split(" ")[0] : unit}</Unit>
    </Amount>
  );
}

function Detail({ figure }: { figure: Figure }) {
  return <span>{(useGlimpsedFigure(figure.id) ?? figure).detail}</span>;
}

const TITLES = { note: "Note", caution: "Caution", stop: "Stop" };

/** Cautions, and what was checked. */
export const Checks = memo(function Checks({ plan }: Props) {
  const cautions = plan.cautions.filter((c) => c.code !== "advice");
  return (
    <Box component="ul" aria-label="Checks" sx={{ listStyle: "none", m: 0, mt: 1, p: 0 }}>
      {cautions.map((c, i) => (
        <Verdict
          key={`${c.code} ${i}`}
          verdict={c.level === "stop" ? "fail" : "caution"}
          text={c.text}
        >
          <Why
            title={TITLES[c.level]}
            how={`${c.text} Authority: ${c.authority}.`}
            rules={c.rules ?? []}
          />
        </Verdict>
      ))}
      <CheckLines checks={plan.checks} />
    </Box>
  );
});

interface LinesProps {
  checks: Plan["checks"];
}

/** What was checked, the worst first; what did not pass says where, by how much and what mends it. */
export function CheckLines({ checks }: LinesProps) {
  const order = { fail: 0, caution: 1, pass: 2 };
  return [...checks]
    .sort((a, b) => order[a.verdict] - order[b.verdict])
    .map((check) => {
      const found = `${check.measured} ${check.unit}, ${check.where}`;
      return (
        <Verdict
          key={check.topic}
          verdict={check.verdict}
          text={
            check.verdict === "pass" ? check.title : `${check.title}: ${found}. ${check.remedy}`
          }
        >
          <Why
            title={check.title}
            how={`${check.where}: ${check.measured} ${check.unit}, required ${check.relation.replace("_", " ")} ${check.needed} ${check.unit}.`}
            rules={check.rules ?? []}
          />
        </Verdict>
      );
    });
}
