import Box from "@mui/material/Box";
import { useState } from "react";
import { useParams } from "react-router";
import { Choice } from "../shell/Choice";
import { Trouble } from "../shell/Trouble";
import { ListHeading, ListLink, TwoPanes } from "../shell/TwoPanes";
import { Verdict, VerdictMark } from "../shell/Verdict";
import { Waiting } from "../shell/Waiting";
import { ItemPage } from "./ItemPage";
import { NewThing } from "./NewThing";
import { ScanHere } from "./ScanHere";
import { StockFile } from "./StockFile";
import { type Item, type Package, type Stock, useStock } from "./queries";
import { KINDS, groupsOf, leftOf, standing } from "./words";

const PARTS = [
  { value: "all", name: "all" },
  { value: "flagged", name: "needs attention" },
] as const;
type Part = (typeof PARTS)[number]["value"];

/** Everything that a plan may call for, its lots and when they are over. */
export default function StockView() {
  const stock = useStock();
  if (stock.isPending) return <Waiting />;
  if (stock.isError) return <Trouble error={stock.error} again={() => void stock.refetch()} />;
  return <Items stock={stock.data} />;
}

function Items({ stock }: { stock: Stock }) {
  const id = Number(useParams().itemId);
  const [search, setSearch] = useState("");
  const [part, setPart] = useState<Part>("all");
  const [scanned, setScanned] = useState<Package | null>(null);
  const groups = groupsOf(stock.items, search, part === "flagged");
  const item = stock.items.find((one) => one.id === id);
  return (
    <TwoPanes
      label="Items"
      searchName="Search names, manufacturers, lots"
      search={search}
      onSearch={setSearch}
      listWidth={380}
      isOneShown={item !== undefined}
      filter={<Choice label="Which items" value={part} options={[...PARTS]} onChange={setPart} />}
      list={
        <>
          {groups.map((group) => (
            <Box key={group.kind}>
              <ListHeading>{KINDS[group.kind]}</ListHeading>
              {group.items.map((one) => (
                <ItemLink key={one.id} item={one} isShown={one.id === id} />
              ))}
            </Box>
          ))}
          {groups.length === 0 && (
            <Box sx={{ py: 2 }}>
              {stock.items.length === 0
                ? "Nothing in stock yet: read a file, or add the first item."
                : part === "flagged" && !search
                  ? "Nothing expired or out of stock."
                  : "Nothing fits."}
            </Box>
          )}
        </>
      }
    >
      {item ? (
        <ItemPage key={item.id} item={item} stock={stock} scanned={scanned} />
      ) : (
        <Box sx={{ p: { xs: 2, md: 3 }, maxWidth: 860, display: "grid", gap: 3 }}>
          <Box>
            <Box component="h1" sx={{ m: 0, fontSize: 26 }}>
              Stock
            </Box>
            <Flagged items={stock.items} />
          </Box>
          <ScanHere stock={stock} onScan={setScanned} />
          <StockFile />
          <NewThing key={scanned?.gtin} kinds={stock.kinds} scanned={scanned} />
        </Box>
      )}
    </TwoPanes>
  );
}

function Flagged({ items }: { items: Item[] }) {
  const flagged = items.filter((item) => item.flags.length > 0);
  return (
    <Box component="ul" aria-label="Needs attention" sx={{ listStyle: "none", m: 0, mt: 1, p: 0 }}>
      {flagged.map((item) =>
        item.flags.map((f) => (
          <Verdict
            key={f.code + f.text}
            verdict={f.level === "stop" ? "fail" : "caution"}
            text={f.text}
          />
        )),
      )}
      {flagged.length === 0 && <Verdict verdict="pass" text="Nothing expired or out of stock" />}
    </Box>
  );
}

function ItemLink({ item, isShown }: { item: Item; isShown: boolean }) {
  return (
    <ListLink to={`/stock/${item.id}`} isShown={isShown} columns="22px minmax(0, 1fr) auto">
      <VerdictMark verdict={standing(item)} />
      <span>{item.name}</span>
      <strong>{item.lots.length > 0 ? leftOf(item) : ""}</strong>
    </ListLink>
  );
}
