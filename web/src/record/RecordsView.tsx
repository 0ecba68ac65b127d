import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Pagination from "@mui/material/Pagination";
import Table from "@mui/material/Table";
import TableBody from "@mui/material/TableBody";
import TableCell from "@mui/material/TableCell";
import TableHead from "@mui/material/TableHead";
import TableRow from "@mui/material/TableRow";
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useDeferredValue, useState } from "react";
import { Link } from "react-router";
import { type Schemas, client, unwrap } from "../api/client";
import { keys } from "../api/keys";
import { useClock } from "../session/time";
import { Field } from "../shell/Field";
import { Page } from "../shell/Page";
import { Toggles } from "../shell/Toggles";
import { Trouble } from "../shell/Trouble";
import { VerdictMark } from "../shell/Verdict";
import { Waiting } from "../shell/Waiting";
import { numerals } from "../theme/tokens";

/** The records of the practice, the newest first; looked for by patient, or those that wait to be signed. */
export default function RecordsView() {
  const [text, setText] = useState("");
  const [page, setPage] = useState(1);
  const [which, setWhich] = useState("all");
  const q = useDeferredValue(text);
  const unsigned = which === "unsigned";
  const found = useQuery({
    queryKey: keys.records(q, page, unsigned),
    queryFn: () => unwrap(client.GET("/api/records", { params: { query: { q, page, unsigned } } })),
    placeholderData: keepPreviousData,
    refetchOnMount: "always",
  });
  if (found.isPending) return <Waiting />;
  if (found.isError) return <Trouble error={found.error} again={() => void found.refetch()} />;
  const { rows, count, pages } = found.data;
  return (
    <Page
      title="Records"
      beside={<span role="status">{count === 1 ? "1 found" : `${count} found`}</span>}
      actions={
        <Button component="a" href="/api/waste-log" download>
          Waste log (CSV)
        </Button>
      }
    >
      <Box sx={{ display: "flex", gap: 1.5, flexWrap: "wrap", mb: 1.5 }}>
        <Field
          label="Patient: name, chart number or date of birth"
          type="search"
          value={text}
          onChange={(told) => {
            setText(told);
            setPage(1);
          }}
          sx={{ width: 360, maxWidth: "100%" }}
        />
        <Toggles
          label="Which records"
          value={which}
          options={[
            { value: "all", name: "all" },
            { value: "unsigned", name: "not signed" },
          ]}
          onChange={(told) => {
            setWhich(told);
            setPage(1);
          }}
        />
      </Box>
      {rows.length === 0 ? (
        <Box>
          {q || unsigned
            ? "Try fewer letters, or all records: none was found."
            : "No records yet. Finish a restoration at the chair and its record is written here."}
        </Box>
      ) : (
        <Rows rows={rows} />
      )}
      {pages > 1 && (
        <Pagination sx={{ mt: 2 }} count={pages} page={page} onChange={(_, to) => setPage(to)} />
      )}
    </Page>
  );
}

function Rows({ rows }: { rows: Schemas["RecordRow"][] }) {
  const clock = useClock();
  return (
    <Box sx={{ overflowX: "auto" }}>
      <Table sx={numerals}>
        <TableHead>
          <TableRow>
            <TableCell>Tooth</TableCell>
            <TableCell>Patient</TableCell>
            <TableCell>Finished</TableCell>
            <TableCell align="right">Deviations</TableCell>
            <TableCell>Signed</TableCell>
          </TableRow>
        </TableHead>
        <TableBody>
          {rows.map((r) => (
            <TableRow key={r.id} hover>
              <TableCell sx={{ whiteSpace: "nowrap" }}>
                <Box
                  component={Link}
                  to={`/records/${r.id}`}
                  sx={{ display: "block", py: 1, color: "inherit" }}
                >
                  <strong>{r.tooth}</strong> {r.surfaces}
                </Box>
              </TableCell>
              <TableCell>
                <strong>{r.patient}</strong>
                {r.visit && `, ${r.visit.toLowerCase()}`}
              </TableCell>
              <TableCell>{clock.moment(r.finished_at)}</TableCell>
              <TableCell align="right">{r.deviations}</TableCell>
              <TableCell>
                <Box sx={{ display: "flex", gap: 1, alignItems: "center" }}>
                  <VerdictMark verdict={r.signed_at ? "pass" : "caution"} />
                  {r.signed_at ? "signed" : "not signed"}
                </Box>
              </TableCell>
            </TableRow>
          ))}
        </TableBody>
      </Table>
    </Box>
  );
}
