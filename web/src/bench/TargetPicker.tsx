import Box from "@mui/material/Box";
import { type ReactNode, useState } from "react";
import type { Problem, Schemas } from "../api/client";
import { Choice } from "../shell/Choice";
import { TextButton } from "../shell/TextButton";
import { paper } from "../theme/tokens";
import { Pick, Typed } from "./entries";
import { valueAt } from "./paths";
import { ReadColor } from "./ReadColor";
import type { Ask } from "./told";
import type { Draft, DraftActions } from "./useDraft";

interface Props {
  ask: Ask;
  draft: Draft;
  actions: DraftActions;
  problems: Problem[];
}

type Told = Schemas["ShadeTarget"];
type Target = Partial<Told>;
type Zone = NonNullable<Told["zone"]>;

const AXES = ["L*", "a*", "b*"];
const ZONES: { value: Zone; name: string }[] = [
  { value: "cervical", name: "cervical" },
  { value: "middle", name: "middle" },
  { value: "incisal", name: "incisal" },
];
const WAYS = { instrument: "instrument", tab: "shade tab", eye: "eye" };
const TEETH = { this: "this tooth", twin: "its twin", neighbor: "adjacent tooth" };

function read(typed: string[]): number[] {
  return typed.map((one) => Number(one.replace(",", ".")));
}

function isColor(typed: string[]): boolean {
  return typed.every((one) => one.trim() !== "") && read(typed).every(Number.isFinite);
}

/** The color that was read, by thirds of the face: as three numbers, which count once all three are there, or by an
 *  instrument; how, of which tooth, and how long that had been dry. */
export function TargetPicker({ ask, draft, actions, problems }: Props) {
  const targets = (valueAt(draft.data, ask.path) as Target[] | undefined) ?? [];
  const [zone, setZone] = useState<Zone>(targets[0]?.zone ?? "middle");
  const told = targets.findIndex((one) => (one.zone ?? "middle") === zone);
  const at = told < 0 ? targets.length : told;
  const problem = problems.find((p) => p.path.startsWith(ask.path));

  function tell(target: Target | undefined) {
    const others = targets.filter((_, i) => i !== told);
    const before = others.slice(0, at);
    const here = target ? [{ ...target, zone }] : [];
    actions.answer(ask, [...before, ...here, ...others.slice(at)]);
  }

  return (
    <Box role="group" aria-label={ask.name} title={ask.help} sx={{ gridColumn: "1 / -1" }}>
      <Box sx={{ fontSize: 14 }}>{ask.name}</Box>
      <Choice
        label="Third of the face"
        value={zone}
        options={ZONES.map((one) => ({
          ...one,
          name: targets.some((t) => (t.zone ?? "middle") === one.value)
            ? `${one.name} ✓`
            : one.name,
        }))}
        onChange={setZone}
      />
      <Third
        key={zone}
        path={`${ask.path}[${at}]`}
        target={targets[told]}
        onTell={tell}
        isWrong={problem !== undefined}
      />
      <ReadColor
        key={`${zone} read`}
        zone={zone}
        tooth={draft.data.tooth?.code ?? ""}
        minutesDry={targets[told]?.minutes_dry ?? 0}
        onRead={(got) => tell({ ...got, tooth: targets[told]?.tooth ?? got.tooth })}
      />
      {problem && (
        <Box role="alert" sx={{ color: "error.main", fontSize: 14 }}>
          {problem.got}? Allowed: {problem.allowed}
        </Box>
      )}
    </Box>
  );
}

interface ThirdProps {
  path: string;
  target: Target | undefined;
  onTell: (target: Target | undefined) => void;
  isWrong: boolean;
}

function Third({ path, target, onTell, isWrong }: ThirdProps) {
  const known = target?.lab?.map(String) ?? ["", "", ""];
  const [entered, setEntered] = useState(known);
  const [dry, setDry] = useState("");
  const minutes = target?.minutes_dry ?? 0;
  // Whatever else sets the color, as taking a change back, shows here too.
  const meant = isColor(entered) ? read(entered) : undefined;
  const typed = String(meant) === String(target?.lab) ? entered : known;
  const frame = (isTold: boolean) => ({
    borderStyle: isTold ? "solid" : "dashed",
    borderColor: isWrong ? paper.brick : paper.verdigris,
  });

  function type(axis: number, value: string) {
    const now = typed.map((before, i) => (i === axis ? value : before));
    setEntered(now);
    // A color that is told in part is none.
    onTell(
      isColor(now) ? { ...target, reflectance: undefined, reader: "", lab: read(now) } : undefined,
    );
  }

  return (
    <>
      <Box sx={{ display: "grid", gridTemplateColumns: "repeat(3, 1fr)", gap: 1, mt: 0.75 }}>
        {AXES.map((axis, i) => (
          <Box
            key={axis}
            component="label"
            sx={{ display: "flex", alignItems: "center", gap: 0.75, fontSize: 15 }}
          >
            {axis}
            <Typed
              inputMode="decimal"
              data-path={`${path}.lab[${i}]`}
              aria-invalid={isWrong}
              value={typed[i]}
              onChange={(e) => type(i, e.target.value)}
              style={frame(typed[i] !== "")}
            />
          </Box>
        ))}
      </Box>
      {target?.reflectance && (
        <Box sx={{ fontSize: 14 }}>
          A spectrum{target.reader && ` of the ${target.reader}`}.{" "}
          <TextButton onPress={() => onTell(undefined)}>Leave it out</TextButton>
        </Box>
      )}
      {target && (
        <Box
          sx={{ display: "grid", gridTemplateColumns: "1.3fr 1.15fr 0.7fr", gap: 0.75, mt: 0.5 }}
        >
          <Named name="read by">
            <Pick
              data-path={`${path}.how`}
              value={target.how ?? "instrument"}
              onChange={(e) => onTell({ ...target, how: e.target.value as Told["how"] })}
              style={frame(true)}
            >
              {options(WAYS)}
            </Pick>
          </Named>
          <Named name="of">
            <Pick
              data-path={`${path}.tooth`}
              value={target.tooth ?? "this"}
              onChange={(e) => onTell({ ...target, tooth: e.target.value as Told["tooth"] })}
              style={frame(true)}
            >
              {options(TEETH)}
            </Pick>
          </Named>
          <Named name="dry, min">
            <Typed
              inputMode="decimal"
              data-path={`${path}.minutes_dry`}
              value={read([dry])[0] === minutes ? dry : String(minutes || "")}
              placeholder="0"
              onChange={(e) => {
                setDry(e.target.value);
                const [now = NaN] = read([e.target.value]);
                if (Number.isFinite(now)) onTell({ ...target, minutes_dry: now });
              }}
              style={frame(minutes > 0)}
            />
          </Named>
        </Box>
      )}
    </>
  );
}

function options(named: Record<string, string>) {
  return Object.entries(named).map(([value, name]) => (
    <option key={value} value={value}>
      {name}
    </option>
  ));
}

function Named({ name, children }: { name: string; children: ReactNode }) {
  return (
    <Box component="label" sx={{ fontSize: 14, minWidth: 0 }}>
      {name}
      {children}
    </Box>
  );
}
