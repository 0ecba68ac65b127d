import Box from "@mui/material/Box";
import { styled } from "@mui/material/styles";
import { type ComponentProps, memo, useId } from "react";
import type { Problem, Schemas } from "../api/client";
import { useHeldText } from "../drawing/glimpses";
import { apart, numerals, paper } from "../theme/tokens";
import { unitOf } from "../shell/units";
import { LampPicker } from "./LampPicker";
import { PartChips } from "./PartChips";
import { type Draft, type DraftActions, type Known, knownOf, textOf } from "./useDraft";
import { LIGHT } from "./told";

type Measured = Schemas["Measurement"];

interface Props {
  measurements: readonly Measured[];
  draft: Draft;
  actions: DraftActions;
  problems: Problem[];
  /** The part whose sizes are shown, where there are many. */
  part: string | null;
  onPart: (part: string) => void;
}

/** Up to so many sizes are shown at once; of more, those of a part. */
const MANY = 10;

/** The measurements, each with how it is known and what is wrong with it, and the lamp. */
export function FieldStrip({ measurements, draft, actions, problems, part, onPart }: Props) {
  const parts = [...new Set(measurements.map((field) => field.part))];
  const isWrong = (field: Measured) => problems.some((p) => p.path === field.path);
  const wrong = measurements.find(isWrong);
  const isTaken = measurements.some((field) => field.part === part);
  const taken = isTaken && part ? part : (wrong?.part ?? parts[0] ?? "");
  const hasChips = measurements.length > MANY;
  const shown = hasChips
    ? measurements.filter((field) => field.part === taken || isWrong(field))
    : measurements;
  return (
    <Box
      sx={{
        display: "grid",
        gridTemplateColumns: "repeat(auto-fill, minmax(132px, 1fr))",
        gap: "6px 12px",
        alignItems: "start",
      }}
    >
      {hasChips && <PartChips parts={parts} taken={taken} onTake={onPart} />}
      {shown.map((field) => (
        <Measurement
          key={field.path}
          {...field}
          text={textOf(draft, field.path)}
          known={
            field.taken && textOf(draft, field.path) === ""
              ? "estimated"
              : knownOf(draft, field.path)
          }
          actions={actions}
          problem={problems.find((p) => p.path === field.path)}
        />
      ))}
      <LampPicker
        data={draft.data}
        isWanted={problems.some((p) => p.path === LIGHT)}
        onPick={(light) => actions.set(LIGHT, light)}
      />
    </Box>
  );
}

interface MeasurementProps extends Measured {
  text: string;
  known: Known;
  actions: DraftActions;
  problem: Problem | undefined;
}

const Measurement = memo(function Measurement(props: MeasurementProps) {
  const { path, part, name, unit, help, taken, text, known, actions, problem } = props;
  const id = useId();
  const estimated = known === "estimated";
  const shown = estimated ? "about" : "meas.";
  const frame = problem ? paper.brick : paper.verdigris;
  return (
    <Box sx={{ ...apart, position: "relative" }}>
      <Box
        component="label"
        htmlFor={id}
        title={help}
        sx={{ fontSize: 14, letterSpacing: "-0.02em", display: "block", whiteSpace: "nowrap" }}
      >
        <Box component="span" sx={{ color: "text.secondary" }}>
          {part}
        </Box>{" "}
        {name}
      </Box>
      <Box
        sx={{
          display: "flex",
          border: `1.5px ${estimated ? "dashed" : "solid"} ${frame}`,
          bgcolor: paper.sheet,
        }}
      >
        <Input
          id={id}
          data-path={path}
          inputMode="decimal"
          autoComplete="off"
          text={text}
          placeholder={taken}
          aria-invalid={problem !== undefined}
          aria-describedby={problem ? `${id}-problem` : undefined}
          onFocus={actions.begin}
          onChange={(e) => actions.type(path, e.target.value)}
          onKeyDown={(e) => {
            if (e.key === "Escape") actions.revert();
            if (e.key === "Escape" || e.key === "Enter") e.currentTarget.blur();
          }}
        />
        <Box sx={{ alignSelf: "center", fontSize: 14, color: "text.secondary", pr: 0.5 }}>
          {unitOf(unit)}
        </Box>
        <Box
          component="button"
          type="button"
          onClick={() => actions.toggleKnown(path)}
          aria-label={`${shown}: ${part} ${name}: ${known}; change`}
          title={`${known}: click to change`}
          sx={{
            ml: "auto",
            px: 0.75,
            minWidth: 54,
            border: 0,
            borderLeft: `1px solid ${paper.rule}`,
            bgcolor: "transparent",
            font: "inherit",
            fontSize: 14,
            color: "text.primary",
            cursor: "pointer",
          }}
        >
          {shown}
        </Box>
      </Box>
      {problem && (
        <Box
          id={`${id}-problem`}
          role="alert"
          sx={{
            position: "absolute",
            left: 0,
            bottom: "100%",
            zIndex: 1,
            minWidth: "100%",
            width: "max-content",
            maxWidth: 300,
            p: 0.75,
            bgcolor: paper.sheet,
            border: `1.5px solid ${paper.brick}`,
            color: "error.main",
            fontSize: 15,
            lineHeight: 1.25,
          }}
        >
          {problem.got}? Allowed: {problem.allowed}
        </Box>
      )}
    </Box>
  );
});

const Entry = styled("input")({
  width: 50,
  flexGrow: 1,
  minWidth: 0,
  border: 0,
  backgroundColor: "transparent",
  font: "inherit",
  fontWeight: 700,
  fontSize: 18,
  padding: "4px 0 4px 8px",
  color: "inherit",
  "&::placeholder": { color: paper.soft, fontWeight: 400, fontSize: 15 },
  ...numerals,
});

interface InputProps extends ComponentProps<typeof Entry> {
  "data-path": string;
  text: string;
}

/** The text that was typed, or the value of a drag that is on. */
function Input({ text, ...rest }: InputProps) {
  return <Entry value={useHeldText(rest["data-path"]) ?? text} {...rest} />;
}
