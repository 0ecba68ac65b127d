import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import MenuItem from "@mui/material/MenuItem";
import TextField from "@mui/material/TextField";
import { type ReactNode, useState } from "react";
import type { Problem, Schemas } from "../api/client";
import { ApiError } from "../api/client";
import { Choice } from "../shell/Choice";
import { numberIn } from "../shell/numbers";
import { PickCsv, Problems } from "../shell/PickCsv";
import { useLooks } from "./queries";

type Optics = Schemas["OpticsIn"]["optics"];
type Opacity = Schemas["FamilyOptics"]["opacity"];
type Way = "spectra" | "lab" | "opacity";
type Typed = readonly [string, string, string];

const WAYS: { value: Way; name: string }[] = [
  { value: "spectra", name: "spectra" },
  { value: "lab", name: "CIELAB" },
  { value: "opacity", name: "opacity alone" },
];
const OPACITIES: Opacity[] = ["opaque", "body", "enamel", "clear"];
const AXES = ["L*", "a*", "b*"];
const NOTHING: Typed = ["", "", ""];
/** A white tile, where nobody reads another. */
const WHITE: Typed = ["95", "0", "0"];

interface Props {
  itemId: number;
  lots: string[];
}

/** Tells what was measured of a composite: by spectra from a file, in CIELAB, or its opacity alone. */
export function MeasureLooks({ itemId, lots }: Props) {
  const { keepSpectra, keepOptics } = useLooks(itemId);
  const [way, setWay] = useState<Way>("spectra");
  const [lot, setLot] = useState(lots[0] ?? "");
  const [thickness, setThickness] = useState("1.0");
  const [problems, setProblems] = useState<Problem[]>([]);
  const thickness_mm = numberIn(thickness);

  async function keep(optics: Optics) {
    setProblems([]);
    try {
      await keepOptics.mutateAsync({ optics, lot });
    } catch (error) {
      if (!(error instanceof ApiError)) throw error;
      setProblems(error.problems);
    }
  }

  return (
    <Box component="section" aria-label="Measure it" sx={{ mt: 1.5 }}>
      <Choice
        label="Known by"
        value={way}
        options={WAYS}
        onChange={(now) => {
          setWay(now);
          setProblems([]);
        }}
      />
      <Row>
        {lots.length > 0 && (
          <TextField
            select
            label="lot"
            value={lot}
            onChange={(e) => setLot(e.target.value)}
            sx={{ width: 150 }}
          >
            {["", ...lots].map((one) => (
              <MenuItem key={one} value={one}>
                {one || "not recorded"}
              </MenuItem>
            ))}
          </TextField>
        )}
        {way !== "opacity" && (
          <Small label="specimen, mm" value={thickness} onChange={setThickness} />
        )}
        {way === "spectra" && (
          <PickCsv
            label="Read spectra from a file"
            onText={async (text) => {
              await keepSpectra.mutateAsync({ text, thickness_mm, lot });
            }}
            onProblems={setProblems}
          />
        )}
      </Row>
      {way === "spectra" && (
        <Box sx={{ color: "text.secondary", fontSize: 14, mt: 0.5 }}>
          Columns wavelength_nm, over_black, over_white, black, white; 400 to 700 nm every 10 nm,
          shares from 0 to 1.
        </Box>
      )}
      {way === "lab" && <ByLab thickness_mm={thickness_mm} onKeep={keep} />}
      {way === "opacity" && <ByOpacity onKeep={keep} />}
      <Problems problems={problems} />
    </Box>
  );
}

interface Keeping {
  onKeep: (optics: Optics) => Promise<void>;
}

/** A specimen in CIELAB over black and over white, and the white itself. */
function ByLab({ thickness_mm, onKeep }: Keeping & { thickness_mm: number }) {
  const [black, setBlack] = useState(NOTHING);
  const [over, setOver] = useState(NOTHING);
  const [white, setWhite] = useState(WHITE);
  const isWhole = [black, over, white].every(isColor) && Number.isFinite(thickness_mm);
  return (
    <>
      <LabRow name="over black" value={black} onChange={setBlack} />
      <LabRow name="over white" value={over} onChange={setOver} />
      <LabRow name="the white itself" value={white} onChange={setWhite} />
      <Keep
        isWhole={isWhole}
        onKeep={() =>
          onKeep({
            kind: "lab",
            thickness_mm,
            over_black: numbers(black),
            over_white: numbers(over),
            white: numbers(white),
          })
        }
      />
    </>
  );
}

/** How opaque a composite is sold as, and its color; what is predicted of it is unsure. */
function ByOpacity({ onKeep }: Keeping) {
  const [opacity, setOpacity] = useState<Opacity>("body");
  const [tab, setTab] = useState(NOTHING);
  return (
    <>
      <Row>
        <TextField
          select
          label="opacity"
          value={opacity}
          onChange={(e) => setOpacity(e.target.value as Opacity)}
          sx={{ width: 150 }}
        >
          {OPACITIES.map((one) => (
            <MenuItem key={one} value={one}>
              {one}
            </MenuItem>
          ))}
        </TextField>
      </Row>
      <LabRow name="its shade tab" value={tab} onChange={setTab} />
      <Keep
        isWhole={isColor(tab)}
        onKeep={() => onKeep({ kind: "family", opacity, tab: numbers(tab) })}
      />
    </>
  );
}

function Keep({ isWhole, onKeep }: { isWhole: boolean; onKeep: () => Promise<void> }) {
  return (
    <Button
      variant="contained"
      disabled={!isWhole}
      onClick={() => void onKeep()}
      sx={{ mt: 1.5, minHeight: 44 }}
    >
      Keep it
    </Button>
  );
}

interface LabProps {
  name: string;
  value: Typed;
  onChange: (now: Typed) => void;
}

function LabRow({ name, value, onChange }: LabProps) {
  return (
    <Row label={name}>
      <Box sx={{ width: 110 }}>{name}</Box>
      {AXES.map((axis, at) => (
        <Small
          key={axis}
          label={axis}
          value={value[at] ?? ""}
          onChange={(text) => {
            const [l, a, b] = value.map((one, i) => (i === at ? text : one));
            onChange([l ?? "", a ?? "", b ?? ""]);
          }}
        />
      ))}
    </Row>
  );
}

function Small({
  label,
  value,
  onChange,
}: {
  label: string;
  value: string;
  onChange: (text: string) => void;
}) {
  return (
    <TextField
      label={label}
      value={value}
      onChange={(e) => onChange(e.target.value)}
      slotProps={{ htmlInput: { inputMode: "decimal" } }}
      sx={{ width: label.length > 4 ? 130 : 84 }}
    />
  );
}

function Row({ label, children }: { label?: string; children: ReactNode }) {
  return (
    <Box
      role={label ? "group" : undefined}
      aria-label={label}
      sx={{ display: "flex", flexWrap: "wrap", alignItems: "center", gap: 1.5, mt: 1.5 }}
    >
      {children}
    </Box>
  );
}

function numbers(typed: Typed): number[] {
  return typed.map(numberIn);
}

function isColor(typed: Typed): boolean {
  return numbers(typed).every(Number.isFinite);
}
