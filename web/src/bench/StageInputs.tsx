import Box from "@mui/material/Box";
import { type ComponentProps, useId, useRef, useState } from "react";
import { flushSync } from "react-dom";
import type { Problem } from "../api/client";
import { TextButton } from "../shell/TextButton";
import { paper } from "../theme/tokens";
import { valueAt } from "./paths";
import { CuspPicker } from "./CuspPicker";
import { AnestheticPicker } from "./AnestheticPicker";
import { FeaturePicker } from "./FeaturePicker";
import { type StageInput, inputsOf } from "./asked";
import { Pick, Typed } from "./entries";
import { type Draft, type DraftActions, textOf } from "./useDraft";

interface Props {
  stage: string;
  draft: Draft;
  actions: DraftActions;
  problems: Problem[];
  /** The cusps of the tooth, where they are known. */
  cusps?: string[];
}

/** What a stage asks for: the few that decide, the rest folded away. What nobody has told stands in a dashed
 *  frame, as the plan takes it, with a question mark. */
export function StageInputs({ stage, draft, actions, problems, cusps = [] }: Props) {
  const [isOpen, setIsOpen] = useState(false);
  const group = useRef<HTMLDivElement>(null);
  const inputs = inputsOf(stage, draft.data);
  const folded = inputs.filter((input) => input.isFolded);

  function fold() {
    flushSync(() => setIsOpen(!isOpen));
    // What opens stands before the button: Tab would lead away from it.
    if (!isOpen)
      group.current?.querySelector<HTMLElement>(`[data-path="${folded[0]?.path}"]`)?.focus();
  }

  if (inputs.length === 0) return null;
  return (
    <Box
      ref={group}
      role="group"
      aria-label="What this stage asks for"
      sx={{ display: "grid", gridTemplateColumns: "1fr 1fr", gap: "6px 10px", my: 0.75 }}
    >
      {inputs
        .filter((input) => isOpen || !input.isFolded)
        .map((input) =>
          input.kind === "cusps" ? (
            <CuspPicker
              key={input.path}
              name={input.name}
              cusps={cusps}
              draft={draft}
              actions={actions}
            />
          ) : input.kind === "features" ? (
            <FeaturePicker key={input.name} name={input.name} draft={draft} actions={actions} />
          ) : input.kind === "anesthetics" ? (
            <AnestheticPicker
              key={input.path}
              name={input.name}
              path={input.path}
              draft={draft}
              actions={actions}
              problems={problems}
            />
          ) : (
            <One
              key={input.path}
              input={input}
              draft={draft}
              actions={actions}
              problem={problems.find((p) => p.path === input.path)}
            />
          ),
        )}
      {folded.length > 0 && (
        <Box sx={{ gridColumn: "1 / -1" }}>
          <TextButton onPress={fold}>
            {isOpen ? "fewer" : `${folded.length} more: ${folded.map((f) => f.name).join(", ")}`}
          </TextButton>
        </Box>
      )}
    </Box>
  );
}

interface OneProps {
  input: Exclude<StageInput, { kind: "cusps" | "features" | "anesthetics" }>;
  draft: Draft;
  actions: DraftActions;
  problem: Problem | undefined;
}

function One({ input, draft, actions, problem }: OneProps) {
  const id = useId();
  const value = valueAt(draft.data, input.path);
  const isTold = value !== undefined && value !== null && value !== "";
  const frame = {
    id,
    "data-path": input.path,
    "aria-invalid": problem !== undefined,
    "aria-describedby": problem ? `${id}-problem` : undefined,
    style: {
      borderStyle: isTold ? "solid" : "dashed",
      borderColor: problem ? paper.brick : paper.verdigris,
    },
  };
  return (
    <Box sx={{ minWidth: 0, gridColumn: input.kind === "text" ? "1 / -1" : undefined }}>
      <Box component="label" htmlFor={id} sx={{ display: "block", fontSize: 14 }}>
        {input.name}
      </Box>
      <Entry input={input} draft={draft} actions={actions} frame={frame} />
      {problem && (
        <Box id={`${id}-problem`} role="alert" sx={{ color: "error.main", fontSize: 14 }}>
          {problem.got}? Allowed: {problem.allowed}
        </Box>
      )}
    </Box>
  );
}

interface EntryProps {
  input: OneProps["input"];
  draft: Draft;
  actions: DraftActions;
  frame: ComponentProps<"input"> & ComponentProps<"select">;
}

function Entry({ input, draft, actions, frame }: EntryProps) {
  const { path } = input;
  const value = valueAt(draft.data, path);
  if (input.kind === "text")
    return (
      <Typed
        {...frame}
        type="text"
        autoComplete="off"
        maxLength={200}
        value={typeof value === "string" ? value : ""}
        onFocus={actions.begin}
        onChange={(e) => actions.write(path, e.target.value)}
      />
    );
  if (input.kind === "length" || input.kind === "count")
    return (
      <Typed
        {...frame}
        inputMode="decimal"
        autoComplete="off"
        placeholder={input.kind === "length" ? input.hint : "0"}
        value={textOf(draft, path)}
        onFocus={actions.begin}
        onChange={(e) => actions.type(path, e.target.value)}
      />
    );
  const options = optionsOf(input, draft);
  return (
    <Pick
      {...frame}
      value={typeof value === "boolean" ? (value ? "yes" : "no") : String(value ?? "")}
      onChange={(e) => actions.set(path, meant(input, e.target.value))}
    >
      {options.map(([code, name]) => (
        <option key={code} value={code}>
          {name}
        </option>
      ))}
    </Pick>
  );
}

/** Returns what can be picked, first that nobody has told it, where that is something. */
function optionsOf(input: OneProps["input"], draft: Draft): [string, string][] {
  if (input.kind === "yes")
    return [
      ["", untold(input.taken)],
      ["yes", "yes"],
      ["no", "no"],
    ];
  if (input.kind === "shelf") {
    const names = (draft.data.shelf ?? []).filter((one) => input.kinds.includes(one.kind));
    return [["", "by rulebook"], ...names.map((one): [string, string] => [one.name, one.name])];
  }
  if (input.kind !== "choice") return [];
  const isTold = valueAt(draft.data, input.path) != null;
  if (input.isWanted) return [["", "not told"], ...input.options];
  if (input.taken) return [["", `${input.taken}?`], ...input.options];
  return isTold ? input.options : [["", input.options[0]?.[1] ?? ""], ...input.options.slice(1)];
}

/** Returns how it reads what the plan goes by where nobody has told it. */
function untold(taken: boolean | string): string {
  return typeof taken === "string" ? taken : `${taken ? "yes" : "no"}?`;
}

function meant(input: OneProps["input"], picked: string): unknown {
  if (input.kind === "yes") return picked === "" ? undefined : picked === "yes";
  return picked === "" ? undefined : picked;
}
