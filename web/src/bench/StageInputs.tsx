import Box from "@mui/material/Box";
import { type ComponentProps, Fragment, useId, useRef, useState } from "react";
import { flushSync } from "react-dom";
import type { Problem } from "../api/client";
import { TextButton } from "../shell/TextButton";
import { paper } from "../theme/tokens";
import { valueAt } from "./paths";
import { CompositePicker } from "./CompositePicker";
import { CuspPicker } from "./CuspPicker";
import { AnestheticPicker } from "./AnestheticPicker";
import { FeaturePicker } from "./FeaturePicker";
import { TargetPicker } from "./TargetPicker";
import { TeethPicker } from "./TeethPicker";
import { WhatWouldHold } from "./WhatWouldHold";
import { Pick, Typed } from "./entries";
import type { Ask } from "./told";
import { type Answer, type Draft, type DraftActions, textOf } from "./useDraft";

interface Props {
  asks: readonly Ask[];
  draft: Draft;
  actions: DraftActions;
  problems: Problem[];
  /** The cusps of the tooth, where they are known. */
  cusps?: string[];
  /** Whether more is wanted to hold the restoration. */
  wantsHold?: boolean;
}

/** What a stage asks for: the few that decide, the rest folded away. What nobody has told stands in a dashed
 *  frame, as the plan takes it, with a question mark. */
export function StageInputs({
  asks,
  draft,
  actions,
  problems,
  cusps = [],
  wantsHold = false,
}: Props) {
  const [isOpen, setIsOpen] = useState(false);
  const group = useRef<HTMLDivElement>(null);
  const folded = asks.filter((ask) => ask.is_folded);

  function fold() {
    flushSync(() => setIsOpen(!isOpen));
    // What opens stands before the button: Tab would lead away from it.
    if (!isOpen)
      group.current?.querySelector<HTMLElement>(`[data-path="${folded[0]?.path}"]`)?.focus();
  }

  if (asks.length === 0) return null;
  return (
    <Box
      ref={group}
      role="group"
      aria-label="What this stage asks for"
      sx={{ display: "grid", gridTemplateColumns: "1fr 1fr", gap: "6px 10px", my: 0.75 }}
    >
      {asks
        .filter((input) => isOpen || !input.is_folded)
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
            <Fragment key={input.name}>
              <FeaturePicker ask={input} draft={draft} actions={actions} />
              {wantsHold && <WhatWouldHold draft={draft} actions={actions} />}
            </Fragment>
          ) : input.kind === "teeth" ? (
            <TeethPicker key={input.path} ask={input} draft={draft} actions={actions} />
          ) : input.kind === "composites" ? (
            <CompositePicker key={input.path} ask={input} draft={draft} actions={actions} />
          ) : input.kind === "target" ? (
            <TargetPicker
              key={input.path}
              ask={input}
              draft={draft}
              actions={actions}
              problems={problems}
            />
          ) : input.kind === "anesthetics" ? (
            <AnestheticPicker
              key={input.path}
              name={input.name}
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
  input: Ask;
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
      <Box
        component="label"
        htmlFor={id}
        title={input.help}
        sx={{ display: "block", fontSize: 14 }}
      >
        {input.name}
        {input.unit && `, ${input.unit}`}
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
        placeholder={input.kind === "length" ? input.taken || "not recorded" : "0"}
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
      onChange={(e) => actions.answer(input, meant(input, e.target.value))}
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
      ["", untold(input)],
      ["yes", "yes"],
      ["no", "no"],
    ];
  if (input.kind === "stock") {
    const names = (draft.data.stock ?? []).filter((one) => input.stock?.includes(one.kind));
    return [["", input.taken ?? ""], ...names.map((one): [string, string] => [one.name, one.name])];
  }
  if (input.kind !== "choice") return [];
  const options = (input.options ?? []).map((one): [string, string] => [one.value, one.name]);
  if (input.is_wanted || input.is_assumed) return [["", untold(input)], ...options];
  // What is taken by itself stands for its own option until another is picked.
  const isTold = valueAt(draft.data, input.path) != null;
  return isTold
    ? options
    : [["", input.taken ?? ""], ...options.filter(([, name]) => name !== input.taken)];
}

/** Returns how it reads what the plan goes by where nobody has told it: a guess about the patient as one. */
function untold({ taken, is_wanted, is_assumed, kind }: Ask): string {
  if (is_wanted || !taken) return "not recorded";
  const isGuess = kind === "yes" || is_assumed;
  return isGuess && !taken.startsWith("by ") && taken !== "not recorded" ? `${taken}?` : taken;
}

function meant(input: OneProps["input"], picked: string): Answer {
  if (input.kind === "yes") return picked === "" ? undefined : picked === "yes";
  return picked === "" ? undefined : picked;
}
