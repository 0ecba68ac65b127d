import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import { dayOf } from "../session/time";
import { FromFile } from "../shell/FromFile";
import { type Row, useKeepRows, useReadStockFile } from "./queries";
import { KINDS } from "./words";

/** The stock as a file: out, and in again row by row. */
export function StockFile() {
  const read = useReadStockFile();
  const keep = useKeepRows();
  return (
    <Box component="section" aria-label="Stock as a file" sx={{ display: "grid", gap: 1 }}>
      <Button
        component="a"
        href="/api/stock-file"
        variant="outlined"
        download
        sx={{ justifySelf: "start" }}
      >
        Save stock as CSV
      </Button>
      <FromFile
        label="Read items from a file"
        listName="Rows not kept yet"
        read={(text) => read.mutateAsync(text)}
        say={(row) => <RowLine row={row} />}
        keepName={(count) => `Add ${count === 1 ? "this row" : `these ${count} rows`} to stock`}
        keep={keep}
        none="No good row in the file."
      />
    </Box>
  );
}

function RowLine({ row }: { row: Row }) {
  return (
    <>
      <strong>{row.name}</strong>, {KINDS[row.kind]?.toLowerCase()}
      {row.lot && `, lot ${row.lot}`}
      {row.count !== null && row.count !== undefined && `, ${row.count} packages`}
      {row.expires_on && `, expires ${dayOf(row.expires_on)}`}
    </>
  );
}
