import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import { type FormEvent, useState } from "react";
import { Link } from "react-router";
import { dayOf } from "../session/time";
import { DayField } from "../shell/DayField";
import { Labelled } from "../shell/Labelled";
import { Verdict } from "../shell/Verdict";
import { Refused } from "../shell/Refused";
import { numerals, paper } from "../theme/tokens";
import { type Item, type Package, type Row, type Stock, useKeepRows } from "./queries";
import { Looks } from "./Looks";
import { ThingForm } from "./NewThing";
import { KINDS, leftOf, said, wordsOf } from "./words";

interface Props {
  item: Item;
  stock: Stock;
  /** The package that was scanned last, if it is of this thing. */
  scanned: Package | null;
}

/** One thing: what planning knows of it, its lots, and the means to change both. */
export function ItemPage({ item, stock, scanned }: Props) {
  const [isChanging, setIsChanging] = useState(false);
  const kind = stock.kinds.find((k) => k.kind === item.kind);
  const fresh = scanned?.item_id === item.id ? scanned : null;
  return (
    <Box
      component="article"
      aria-label={item.name}
      sx={{ p: { xs: 2, md: 3 }, maxWidth: 860, display: "grid", gap: 2 }}
    >
      <Box>
        <Link to="/stock" style={{ color: paper.verdigris }}>
          Stock
        </Link>{" "}
        <span style={{ color: paper.soft }}>
          {KINDS[item.kind]}
          {item.manufacturer && `, ${item.manufacturer}`}
        </span>
        <Box component="h1" sx={{ m: 0, fontSize: 22 }}>
          {item.name}
        </Box>
        {!kind?.is_lasting && (
          <Box data-left sx={{ fontSize: 54, fontWeight: 700, lineHeight: 1.1, ...numerals }}>
            {leftOf(item)}
            <Box component="span" sx={{ fontSize: 20, fontWeight: 400, ml: 1 }}>
              left to use
            </Box>
          </Box>
        )}
        <Box component="ul" sx={{ listStyle: "none", m: 0, p: 0 }}>
          {item.flags.map((f) => (
            <Verdict key={f.code} verdict={f.level === "stop" ? "fail" : "caution"} text={f.text} />
          ))}
        </Box>
      </Box>
      {!kind?.is_lasting && <Lots key={fresh?.lot} item={item} fresh={fresh} />}
      {item.kind === "mass" && (
        <Looks itemId={item.id} lots={item.lots.map((lot) => lot.number).filter(Boolean)} />
      )}
      <Box component="section" aria-label="What planning knows of it">
        <Box component="h2" sx={{ m: 0, mb: 0.5, fontSize: 18 }}>
          What planning knows of it
        </Box>
        {kind && isChanging ? (
          <ThingForm kind={kind} item={item} onDone={() => setIsChanging(false)} />
        ) : (
          <>
            <Properties item={item} />
            <Button variant="outlined" onClick={() => setIsChanging(true)} sx={{ mt: 1 }}>
              Change
            </Button>
          </>
        )}
      </Box>
    </Box>
  );
}

function Properties({ item }: { item: Item }) {
  const rows = Object.entries(item.properties).filter(([, value]) => typeof value !== "object");
  return (
    <Box
      component="dl"
      sx={{
        m: 0,
        display: "grid",
        gridTemplateColumns: "max-content minmax(0, 1fr)",
        columnGap: 2,
        rowGap: 0.5,
        "& dt": { color: "text.secondary" },
        "& dd": { m: 0, ...numerals },
      }}
    >
      {rows.map(([name, value]) => {
        const words = wordsOf(name);
        return (
          <Box key={name} sx={{ display: "contents" }}>
            <dt>{words.name}</dt>
            <dd>
              <strong>{said(value)}</strong> {words.unit}
            </dd>
          </Box>
        );
      })}
      {item.gtin && (
        <>
          <dt>GTIN</dt>
          <dd>{item.gtin}</dd>
        </>
      )}
    </Box>
  );
}

/** A thing as it stands, to be sent back with a lot of it. */
function rowOf({ kind, name, manufacturer, gtin, properties }: Item): Row {
  return { kind, name, manufacturer, gtin, properties, lot: "", expires_on: null, count: null };
}

function Lots({ item, fresh }: { item: Item; fresh: Package | null }) {
  const keep = useKeepRows();
  const known = item.lots.find((lot) => lot.number === fresh?.lot);
  const [number, setNumber] = useState(fresh?.lot ?? "");
  const [day, setDay] = useState(fresh?.expires_on ?? "");
  const [count, setCount] = useState(String(known ? known.count + 1 : 1));

  function put(lot: string, expires_on: string | null, left: number, onSuccess?: () => void) {
    keep.mutate([{ ...rowOf(item), lot, expires_on, count: left }], { onSuccess });
  }

  function submit(event: FormEvent) {
    event.preventDefault();
    put(number.trim(), day || null, Number(count), () => {
      setNumber("");
      setDay("");
      setCount("1");
    });
  }

  return (
    <Box component="section" aria-label="Lots">
      <Box component="h2" sx={{ m: 0, mb: 0.5, fontSize: 18 }}>
        Lots
      </Box>
      <Box
        component="ul"
        aria-label="Lots there"
        sx={{ listStyle: "none", m: 0, p: 0, ...numerals }}
      >
        {item.lots.map((lot) => (
          <Box
            component="li"
            key={lot.id}
            sx={{
              display: "flex",
              flexWrap: "wrap",
              gap: 2,
              alignItems: "center",
              py: 0.5,
              borderTop: `1px solid ${paper.rule}`,
            }}
          >
            <Box sx={{ minWidth: 120, fontWeight: 700 }}>{lot.number || "no number"}</Box>
            <Box sx={{ minWidth: 220, color: lot.is_over ? paper.brick : "inherit" }}>
              {lot.expires_on
                ? `${lot.is_over ? "expired on" : "expires"} ${dayOf(lot.expires_on)}`
                : "no expiry date"}
            </Box>
            <strong>{lot.count} left</strong>
            <Button
              size="small"
              variant="outlined"
              disabled={lot.count === 0 || keep.isPending}
              aria-label={`One less of lot ${lot.number}`}
              onClick={() => put(lot.number, lot.expires_on, lot.count - 1)}
            >
              −
            </Button>
            <Button
              size="small"
              variant="outlined"
              disabled={keep.isPending}
              aria-label={`One more of lot ${lot.number}`}
              onClick={() => put(lot.number, lot.expires_on, lot.count + 1)}
            >
              +
            </Button>
          </Box>
        ))}
      </Box>
      <Box
        component="form"
        onSubmit={submit}
        sx={{ display: "flex", gap: 2, alignItems: "end", flexWrap: "wrap", mt: 1 }}
      >
        <Labelled name="lot" value={number} onChange={setNumber} width={150} />
        <DayField label="expires" value={day} onChange={setDay} sx={{ width: 190 }} />
        <Labelled name="packages" value={count} onChange={setCount} width={90} />
        <Button
          type="submit"
          variant="contained"
          disabled={!/^\d+$/.test(count.trim()) || keep.isPending}
        >
          Add to stock
        </Button>
      </Box>
      <Refused error={keep.error} />
    </Box>
  );
}
