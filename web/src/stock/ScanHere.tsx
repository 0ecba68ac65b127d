import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import { type FormEvent, useState } from "react";
import { useNavigate } from "react-router";
import { dayOf } from "../session/time";
import { Choice } from "../shell/Choice";
import { Labelled } from "../shell/Labelled";
import { saidBy } from "../shell/said";
import { paper } from "../theme/tokens";
import { type Package, type Stock, useHoldPackage, useReadPackage } from "./queries";

const LABELS = [
  { value: "clean", name: "clean" },
  { value: "smudged", name: "smudged" },
] as const;

/** Takes the code of a package that came, from a reader that types or from the simulated one. */
export function ScanHere({ stock, onScan }: { stock: Stock; onScan: (found: Package) => void }) {
  const [text, setText] = useState("");
  const [label, setLabel] = useState<(typeof LABELS)[number]["value"]>("clean");
  const read = useReadPackage();
  const hold = useHoldPackage();
  const navigate = useNavigate();
  const lots = stock.items.flatMap((item) => (item.gtin ? item.lots : []));
  const found = read.data;

  function take(code: string) {
    setText(code);
    read.mutate(code, {
      onSuccess: (what) => {
        onScan(what);
        if (what.item_id) void navigate(`/stock/${what.item_id}`);
      },
    });
  }

  function submit(event: FormEvent) {
    event.preventDefault();
    if (text.trim()) take(text.trim());
  }

  function holdOne() {
    const lot = lots[Math.floor(Math.random() * lots.length)];
    if (lot)
      hold.mutate(
        { lot_id: lot.id, is_smudged: label === "smudged" },
        { onSuccess: (code) => take(code.text) },
      );
  }

  return (
    <Box component="section" aria-label="Scan a package">
      <Box component="h2" sx={{ m: 0, mb: 0.5, fontSize: 18 }}>
        Scan a package
      </Box>
      <Box
        component="form"
        onSubmit={submit}
        sx={{ display: "flex", gap: 2, alignItems: "end", flexWrap: "wrap" }}
      >
        <Labelled name="its code" value={text} onChange={setText} width={380} />
        <Button type="submit" variant="outlined" disabled={!text.trim() || read.isPending}>
          Look up
        </Button>
      </Box>
      {stock.barcode_reader && (
        <Box sx={{ display: "flex", gap: 1, alignItems: "center", flexWrap: "wrap", mt: 1 }}>
          <Box sx={{ fontSize: 14, color: "text.secondary" }}>
            {stock.barcode_reader}, before a label that is
          </Box>
          <Choice label="Label" value={label} options={[...LABELS]} onChange={setLabel} />
          <Button
            variant="outlined"
            disabled={lots.length === 0 || hold.isPending}
            onClick={holdOne}
          >
            Hold some package
          </Button>
        </Box>
      )}
      {found && !found.item_id && (
        <Box role="status" sx={{ mt: 1, p: 1, border: `1.5px dashed ${paper.verdigris}` }}>
          Not in stock: {found.gtin}
          {found.lot && `, lot ${found.lot}`}
          {found.expires_on && `, expires ${dayOf(found.expires_on)}`}. Say below what it is.
        </Box>
      )}
      {(read.error ?? hold.error) && (
        <Box role="alert" sx={{ color: "error.main", mt: 1 }}>
          {saidBy((read.error ?? hold.error) as Error)}
        </Box>
      )}
    </Box>
  );
}
