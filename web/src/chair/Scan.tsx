import Box from "@mui/material/Box";
import { type FormEvent, useState } from "react";
import type { Schemas } from "../api/client";
import { dayOf } from "../session/time";
import { useHoldPackage, useReadPackage, useStock } from "../stock/queries";
import { night } from "../theme/tokens";
import { ChairButton } from "./ChairButton";
import { ChairDialog } from "./ChairDialog";
import type { Run } from "./useRun";

type Lot = Schemas["LotOut"] & { name: string };

/** Takes the code of a package that is opened: typed by a reader, or by the simulated one in the demo. */
export function Scan({ run, onScan }: { run: Run; onScan: (text: string) => void }) {
  const [open, setOpen] = useState(false);
  const count = run.state.lots.length;
  return (
    <>
      <ChairButton small onPress={() => setOpen(true)}>
        {count === 0 ? "scan lot" : `scan lot (${count})`}
      </ChairButton>
      <ChairDialog
        open={open}
        title="Hold the package before the reader"
        onClose={() => setOpen(false)}
      >
        {open && (
          <Reader
            run={run}
            onTake={(text) => {
              setOpen(false);
              onScan(text);
            }}
          />
        )}
      </ChairDialog>
    </>
  );
}

function Reader({ run, onTake }: { run: Run; onTake: (text: string) => void }) {
  const [text, setText] = useState("");
  const read = useReadPackage();
  const hold = useHoldPackage();

  function take(code: string) {
    setText(code);
    read.mutate(code);
  }

  function submit(event: FormEvent) {
    event.preventDefault();
    if (text.trim()) take(text.trim());
  }

  const found = read.data;
  return (
    <Box sx={{ display: "grid", gap: 2, mb: 3, minWidth: { md: 560 } }}>
      <Box component="form" onSubmit={submit}>
        <label style={{ fontSize: 18 }}>
          Code
          <Box
            component="input"
            autoFocus
            autoComplete="off"
            value={text}
            onChange={(event) => setText(event.target.value)}
            sx={{
              display: "block",
              width: "100%",
              minHeight: 56,
              px: 2,
              boxSizing: "border-box",
              font: "inherit",
              fontSize: 22,
              color: night.text,
              bgcolor: night.room,
              border: `2px solid ${night.line}`,
            }}
          />
        </label>
      </Box>
      <Held
        run={run}
        onHold={(lot_id) =>
          hold.mutate({ lot_id, is_smudged: false }, { onSuccess: (code) => take(code.text) })
        }
      />
      {found && (
        <Box
          role="status"
          sx={{ p: 2, border: `2px solid ${found.is_over ? night.stop : night.go}` }}
        >
          <Box sx={{ fontSize: 28, fontWeight: 700 }}>
            {found.item_name ?? "Not in stock"}
            {found.lot && `, lot ${found.lot}`}
          </Box>
          <Box sx={{ fontSize: 20, color: found.is_over ? night.stop : night.soft }}>
            {found.expires_on
              ? `${found.is_over ? "Expired on" : "Use by"} ${dayOf(found.expires_on)}`
              : "No last day of use in the code"}
            {found.is_over && ": take another package"}
          </Box>
        </Box>
      )}
      {(read.error ?? hold.error) && (
        <Box role="alert" sx={{ fontSize: 20, color: night.stop }}>
          {(read.error ?? hold.error)?.message} Read it again.
        </Box>
      )}
      {text.trim() !== "" && (
        <ChairButton main onPress={() => onTake(text.trim())}>
          {found?.is_over ? "record it all the same" : "record it"}
        </ChairButton>
      )}
    </Box>
  );
}

/** In the demo: the packages that this plan wants, to hold before the simulated reader. */
function Held({ run, onHold }: { run: Run; onHold: (lotId: number) => void }) {
  const stock = useStock();
  if (!stock.data?.barcode_reader) return null;
  const wanted = new Set(run.wants.map((want) => want.name));
  const lots: Lot[] = stock.data.items
    .filter((item) => wanted.has(item.name))
    .flatMap((item) => item.lots.map((lot) => ({ ...lot, name: item.name })));
  return (
    <Box>
      <Box sx={{ fontSize: 18, color: night.soft, mb: 1 }}>
        {stock.data.barcode_reader}: hold before it
      </Box>
      <Box sx={{ display: "flex", flexWrap: "wrap", gap: 1 }}>
        {lots.map((lot) => (
          <ChairButton key={lot.id} small onPress={() => onHold(lot.id)}>
            {lot.name} {lot.number}
          </ChairButton>
        ))}
      </Box>
    </Box>
  );
}
