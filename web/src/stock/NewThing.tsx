import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import { type FormEvent, useState } from "react";
import { useNavigate } from "react-router";
import { Labelled } from "../shell/Labelled";
import { saidBy } from "../shell/said";
import { paper } from "../theme/tokens";
import { type Field, type Item, type Kind, type Package, useKeepRows } from "./queries";
import { KINDS, meant, said, wordsOf } from "./words";

/** Puts a new item in stock: its kind first, then what planning needs to know. */
export function NewThing({ kinds, scanned }: { kinds: Kind[]; scanned: Package | null }) {
  const [chosen, setChosen] = useState(kinds[0]?.kind ?? "");
  const kind = kinds.find((k) => k.kind === chosen);
  return (
    <Box component="section" aria-label="Add an item to stock">
      <Box component="h2" sx={{ m: 0, mb: 1, fontSize: 18 }}>
        Add an item to stock
      </Box>
      <Picked
        name="kind"
        value={chosen}
        options={kinds.map((k) => ({ value: k.kind, name: KINDS[k.kind] ?? k.kind }))}
        onChange={setChosen}
      />
      {kind && <ThingForm key={kind.kind} kind={kind} scanned={scanned} />}
    </Box>
  );
}

interface FormProps {
  kind: Kind;
  item?: Item;
  scanned?: Package | null;
  onDone?: () => void;
}

/** The properties of a kind of thing, to be filled in. */
export function ThingForm({ kind, item, scanned, onDone }: FormProps) {
  const keep = useKeepRows();
  const navigate = useNavigate();
  const [name, setName] = useState(item?.name ?? "");
  const [manufacturer, setManufacturer] = useState(item?.manufacturer ?? "");
  const [gtin, setGtin] = useState(item?.gtin ?? scanned?.gtin ?? "");
  const [texts, setTexts] = useState<Record<string, string>>(() =>
    Object.fromEntries(
      kind.fields.map((f) => [
        f.name,
        textOf(item?.properties[f.name]) || (f.is_needed ? (f.options?.[0] ?? "") : ""),
      ]),
    ),
  );

  function submit(event: FormEvent) {
    event.preventDefault();
    const filled = kind.fields.filter((f) => texts[f.name]?.trim());
    const properties = Object.fromEntries(
      filled.map((f) => [f.name, meant(texts[f.name] ?? "", f)]),
    );
    const lot = scanned
      ? { lot: scanned.lot, expires_on: scanned.expires_on, count: 1 }
      : { lot: "", expires_on: null, count: null };
    keep.mutate([{ kind: kind.kind, name, manufacturer, gtin, properties, ...lot }], {
      onSuccess: (stock) => {
        onDone?.();
        const made = stock.items.find((one) => one.kind === kind.kind && one.name === name);
        if (!item && made) void navigate(`/stock/${made.id}`);
      },
    });
  }

  return (
    <Box component="form" onSubmit={submit} sx={{ display: "grid", gap: 1.5, mt: 1 }}>
      <Box sx={{ display: "flex", gap: 2, flexWrap: "wrap" }}>
        {!item && <Labelled name="name" value={name} onChange={setName} width={220} />}
        <Labelled name="manufacturer" value={manufacturer} onChange={setManufacturer} width={220} />
        <Labelled name="GTIN" value={gtin} onChange={setGtin} width={180} />
      </Box>
      <Box sx={{ display: "flex", gap: 2, flexWrap: "wrap" }}>
        {kind.fields.map((field) => (
          <PropertyField
            key={field.name}
            field={field}
            value={texts[field.name] ?? ""}
            onChange={(text) => setTexts({ ...texts, [field.name]: text })}
          />
        ))}
      </Box>
      <Box sx={{ display: "flex", gap: 1 }}>
        <Button type="submit" variant="contained" disabled={!name.trim() || keep.isPending}>
          {item ? "Keep" : "Add to stock"}
        </Button>
        {onDone && <Button onClick={onDone}>Cancel</Button>}
      </Box>
      {keep.isError && (
        <Box role="alert" sx={{ color: "error.main" }}>
          {saidBy(keep.error).replaceAll("rows[0].", "")}
        </Box>
      )}
    </Box>
  );
}

function textOf(value: unknown): string {
  return value === undefined || value === null
    ? ""
    : typeof value === "boolean"
      ? value
        ? "yes"
        : "no"
      : String(value);
}

interface PropertyProps {
  field: Field;
  value: string;
  onChange: (text: string) => void;
}

function PropertyField({ field, value, onChange }: PropertyProps) {
  const { name, unit } = wordsOf(field.name);
  const label = [name, unit].filter(Boolean).join(", ");
  if (!field.options)
    return <Labelled name={label} value={value} onChange={onChange} width={150} />;
  const options = field.options.map((option) => ({ value: option, name: said(option) }));
  const none = field.is_needed ? [] : [{ value: "", name: "not recorded" }];
  return <Picked name={label} value={value} options={[...none, ...options]} onChange={onChange} />;
}

interface PickedProps {
  name: string;
  value: string;
  options: { value: string; name: string }[];
  onChange: (value: string) => void;
}

/** One of many, picked from a list. */
function Picked({ name, value, options, onChange }: PickedProps) {
  return (
    <label style={{ fontSize: 14 }}>
      {name}
      <Box
        component="select"
        value={value}
        onChange={(event) => onChange(event.target.value)}
        sx={{
          display: "block",
          minWidth: 180,
          height: 42,
          px: 1,
          font: "inherit",
          fontSize: 18,
          fontWeight: 700,
          color: "inherit",
          bgcolor: paper.sheet,
          border: `1.5px solid ${paper.verdigris}`,
        }}
      >
        {options.map((option) => (
          <option key={option.value} value={option.value}>
            {option.name}
          </option>
        ))}
      </Box>
    </label>
  );
}
