import Box from "@mui/material/Box";
import Tab from "@mui/material/Tab";
import Tabs from "@mui/material/Tabs";
import { styled } from "@mui/material/styles";
import { type ComponentProps, memo, useId } from "react";
import type { Problem, Schemas } from "../api/client";
import { useHeldText } from "../drawing/glimpses";
import { apart, numerals, paper } from "../theme/tokens";
import { unitOf } from "../shell/units";
import { VerdictMark } from "../shell/Verdict";
import { LampPicker } from "./LampPicker";
import { LAMP, type Part, lineOf } from "./parts";
import { type Draft, type DraftActions, type Known, knownOf, textOf } from "./useDraft";
import { LIGHT, lightOf } from "./told";

type Measured = Schemas["Measurement"];

interface Props {
  parts: readonly Part[];
  /** The part whose sizes are shown; of the others there is a line. */
  part: string;
  onPart: (part: string) => void;
  draft: Draft;
  actions: DraftActions;
  problems: Problem[];
}

/** So many sizes have room in a row, so that one alone is not as wide as all. */
const AT_LEAST = 5;

/** The sizes of the part at hand, each with how it is known and what is wrong with it; the other parts in a line each. */
export function FieldStrip({ parts, part, onPart, draft, actions, problems }: Props) {
  const id = useId();
  const light = lightOf(draft.data);
  const isLampWanted = problems.some((p) => p.path === LIGHT);
  const hasLamp = light !== null || isLampWanted;
  const shown = part === LAMP && !hasLamp ? parts[0]?.name : part;
  const fields = parts.find(({ name }) => name === shown)?.fields ?? [];
  return (
    <>
      <Tabs
        aria-label="Part"
        value={shown}
        onChange={(_, name: string) => onPart(name)}
        variant="scrollable"
        scrollButtons="auto"
      >
        {parts.map((one) => (
          <PartTab
            key={one.name}
            value={one.name}
            line={lineOf(one, draft)}
            isWrong={one.isWrong}
            panel={id}
          />
        ))}
        {hasLamp && (
          <PartTab value={LAMP} line={light?.name ?? "?"} isWrong={isLampWanted} panel={id} />
        )}
      </Tabs>
      <Box
        role="tabpanel"
        id={id}
        aria-label={shown}
        sx={{
          pt: 0.75,
          minHeight: 62,
          display: "grid",
          gridTemplateColumns: {
            xs: "repeat(auto-fill, minmax(132px, 1fr))",
            md: "repeat(auto-fill, minmax(116px, 1fr))",
            lg: `repeat(${Math.max(AT_LEAST, fields.length)}, minmax(0, 1fr))`,
          },
          gap: "6px 10px",
          alignItems: "start",
        }}
      >
        {fields.map((field) => (
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
        {shown === LAMP && (
          <Box sx={{ gridColumn: "1 / -1" }}>
            <LampPicker data={draft.data} onPick={(picked) => actions.set(LIGHT, picked)} />
          </Box>
        )}
      </Box>
    </>
  );
}

interface TabProps {
  value: string;
  line: string;
  isWrong: boolean;
  panel: string;
  /** Given by the row of tabs. */
  [given: string]: unknown;
}

const TAB_SAYS = "Sizes in mm; ~ means estimated.";

/** A part by its name, and its sizes in a line. */
function PartTab({ value, line, isWrong, panel, ...given }: TabProps) {
  return (
    <Tab
      {...given}
      value={value}
      aria-controls={panel}
      title={TAB_SAYS}
      label={
        <>
          <Box component="span" sx={{ display: "flex", gap: 0.5, alignItems: "center" }}>
            {value}
            {isWrong && <VerdictMark verdict="fail" />}
          </Box>
          <Box component="span" sx={{ fontSize: 14, fontWeight: 400, ...numerals }}>
            {line}
          </Box>
        </>
      }
    />
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
          aria-label={`${part} ${name}`}
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
        {text !== "" && (
          <Box sx={{ alignSelf: "center", fontSize: 14, color: "text.secondary", px: 0.25 }}>
            {unitOf(unit)}
          </Box>
        )}
        <Box
          component="button"
          type="button"
          onClick={() => actions.toggleKnown(path)}
          aria-label={`${shown}: ${part} ${name}: ${known}; change`}
          title={`${known}: click to change`}
          sx={{
            ml: "auto",
            px: 0.5,
            minWidth: 46,
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
  padding: "4px 0 4px 6px",
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
