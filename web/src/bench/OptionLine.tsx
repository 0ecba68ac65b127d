import Box from "@mui/material/Box";
import type { Schemas } from "../api/client";
import { TextButton } from "../shell/TextButton";
import { Verdict } from "../shell/Verdict";
import { numerals, paper } from "../theme/tokens";
import { Why } from "./Why";

interface Props {
  option: Schemas["Option"];
  place: number;
  /** Plans with it instead; where it is what is planned, or cannot be, there is none. */
  onTake?: () => void;
}

/** One way of several: how much it weighs, every reason for and against, and what forbids it. */
export function OptionLine({ option, place, onTake }: Props) {
  const weighed = [...option.speaks_for, ...option.speaks_against].map((a) => a.rule);
  const rules = option.lasts ? [...weighed, option.lasts] : weighed;
  return (
    <Box sx={{ py: 0.75, borderTop: `1px solid ${paper.rule}` }}>
      <Box sx={{ display: "flex", gap: 1, alignItems: "baseline", ...numerals }}>
        <Box sx={{ flex: 1, fontWeight: 700, color: option.is_stopped ? paper.brick : "inherit" }}>
          {place}. {option.name}
        </Box>
        <span>{option.is_stopped ? "stopped" : `${signed(option.points)} points`}</span>
        <Why title={option.name} rules={rules} />
      </Box>
      {onTake && (
        <TextButton label={`plan with ${option.name}`} onPress={onTake}>
          plan with it
        </TextButton>
      )}
      <Box component="ul" sx={{ listStyle: "none", m: 0, p: 0, fontSize: 14 }}>
        {option.limits.map((limit) => (
          <Verdict
            key={limit.text + limit.authority}
            verdict={limit.stops ? "fail" : "caution"}
            text={`${limit.text} (${limit.authority})`}
          />
        ))}
        {option.speaks_for.map((a) => (
          <li key={a.text}>
            {signed(a.points)} {a.text}
          </li>
        ))}
        {option.speaks_against.map((a) => (
          <li key={a.text}>
            {signed(-a.points)} {a.text}
          </li>
        ))}
        {option.lasts && (
          <li>
            <em>{lastingOf(option)}</em>
          </li>
        )}
        {option.wins_without && (
          <li>
            <em>Would come first but for: {option.wins_without}</em>
          </li>
        )}
      </Box>
    </Box>
  );
}

/** What is published of how long such restorations last. */
export function lastingOf({ lasts }: Schemas["Option"]): string {
  return lasts
    ? `Published: ${lasts.value} % a year. ${lasts.title}. ${lasts.citation}.`
    : "No published figure known to us.";
}

function signed(points: number): string {
  return points < 0 ? `\u2212${-points}` : `+${points}`;
}
