import Box from "@mui/material/Box";
import { useCallback, useState } from "react";
import { NavLink, useParams } from "react-router";
import { Choice } from "../shell/Choice";
import { Labelled } from "../shell/Labelled";
import { Trouble } from "../shell/Trouble";
import { Verdict, VerdictMark } from "../shell/Verdict";
import { Waiting } from "../shell/Waiting";
import { numerals, paper } from "../theme/tokens";
import { ItemPage } from "./ItemPage";
import { NewThing } from "./NewThing";
import { ScanHere } from "./ScanHere";
import { ShelfFile } from "./ShelfFile";
import { type Item, type Package, type Shelf, useShelf } from "./queries";
import { KINDS, groupsOf, standing } from "./words";

const PARTS = [
  { value: "all", name: "all" },
  { value: "flagged", name: "to see to" },
] as const;
type Part = (typeof PARTS)[number]["value"];

/** Everything that a plan may call for, its lots and when they are over. */
export default function ShelfView() {
  const shelf = useShelf();
  if (shelf.isPending) return <Waiting />;
  if (shelf.isError) return <Trouble error={shelf.error} again={() => void shelf.refetch()} />;
  return <Stock shelf={shelf.data} />;
}

function Stock({ shelf }: { shelf: Shelf }) {
  const id = Number(useParams().itemId);
  const [search, setSearch] = useState("");
  const [part, setPart] = useState<Part>("all");
  const [scanned, setScanned] = useState<Package | null>(null);
  const groups = groupsOf(shelf.items, search, part === "flagged");
  const item = shelf.items.find((one) => one.id === id);
  return (
    <Box
      sx={{
        flex: { xs: 1, md: "none" },
        minHeight: 0,
        display: "grid",
        gridTemplateColumns: { xs: "minmax(0, 1fr)", md: "380px minmax(0, 1fr)" },
        gridTemplateRows: { md: "minmax(0, 1fr)" },
        height: { md: "calc(100dvh - 50px)" },
      }}
    >
      <Box
        component="section"
        aria-label="Things"
        sx={{
          display: { xs: item ? "none" : "flex", md: "flex" },
          flexDirection: "column",
          minHeight: 0,
          borderRight: { md: `1px solid ${paper.rule}` },
        }}
      >
        <Box sx={{ p: 2, pb: 1, display: "grid", gap: 1 }}>
          <Labelled
            name="Search names, makers, lots"
            type="search"
            width="100%"
            value={search}
            onChange={setSearch}
          />
          <Box>
            <Choice label="Which things" value={part} options={[...PARTS]} onChange={setPart} />
          </Box>
        </Box>
        <Box component="nav" aria-label="Found" sx={{ overflow: "auto", px: 2, pb: 2 }}>
          {groups.map((group) => (
            <Box key={group.kind}>
              <Box component="h2" sx={{ m: 0, mt: 1, mb: 0.5, fontSize: 16 }}>
                {KINDS[group.kind]}
              </Box>
              {group.items.map((one) => (
                <ItemLink key={one.id} item={one} isShown={one.id === id} />
              ))}
            </Box>
          ))}
          {groups.length === 0 && (
            <Box sx={{ py: 2 }}>
              {shelf.items.length === 0
                ? "Nothing on the shelf yet: take it from a file, or put the first thing there."
                : part === "flagged" && !search
                  ? "Nothing is over, and nothing is out."
                  : "Nothing fits."}
            </Box>
          )}
        </Box>
      </Box>
      <Box sx={{ overflow: "auto", minWidth: 0 }}>
        {item ? (
          <ItemPage key={item.id} item={item} shelf={shelf} scanned={scanned} />
        ) : (
          <Box sx={{ p: { xs: 2, md: 3 }, maxWidth: 860, display: "grid", gap: 3 }}>
            <Box>
              <Box component="h1" sx={{ m: 0, fontSize: 26 }}>
                Shelf
              </Box>
              <Flagged items={shelf.items} />
            </Box>
            <ScanHere shelf={shelf} onScan={setScanned} />
            <ShelfFile />
            <NewThing key={scanned?.gtin} kinds={shelf.kinds} scanned={scanned} />
          </Box>
        )}
      </Box>
    </Box>
  );
}

function Flagged({ items }: { items: Item[] }) {
  const flagged = items.filter((item) => item.flags.length > 0);
  return (
    <Box component="ul" aria-label="To see to" sx={{ listStyle: "none", m: 0, mt: 1, p: 0 }}>
      {flagged.map((item) =>
        item.flags.map((f) => (
          <Verdict
            key={f.code + f.text}
            verdict={f.level === "stop" ? "fail" : "caution"}
            text={f.text}
          />
        )),
      )}
      {flagged.length === 0 && (
        <Verdict verdict="pass" text="Nothing is over, and nothing is out" />
      )}
    </Box>
  );
}

function ItemLink({ item, isShown }: { item: Item; isShown: boolean }) {
  const left = item.lots.filter((lot) => !lot.is_over).reduce((sum, lot) => sum + lot.count, 0);
  const comeIntoView = useCallback(
    (link: HTMLElement | null) => link?.scrollIntoView({ block: "nearest" }),
    [],
  );
  return (
    <Box
      component={NavLink}
      to={`/shelf/${item.id}`}
      ref={isShown ? comeIntoView : null}
      sx={{
        display: "grid",
        gridTemplateColumns: "22px minmax(0, 1fr) auto",
        columnGap: 1,
        alignItems: "center",
        minHeight: 44,
        px: 1,
        color: "inherit",
        textDecoration: "none",
        bgcolor: isShown ? paper.sheet : "transparent",
        borderTop: `1px solid ${paper.rule}`,
        outline: isShown ? `2px solid ${paper.ink}` : 0,
        outlineOffset: -2,
        ...numerals,
      }}
    >
      <VerdictMark verdict={standing(item)} />
      <span>{item.name}</span>
      <strong>{item.lots.length > 0 ? left : ""}</strong>
    </Box>
  );
}
