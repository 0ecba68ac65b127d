import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Table from "@mui/material/Table";
import TableBody from "@mui/material/TableBody";
import TableCell from "@mui/material/TableCell";
import TableHead from "@mui/material/TableHead";
import TableRow from "@mui/material/TableRow";
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { Link } from "react-router";
import { type Schemas, client, unwrap } from "../api/client";
import { keys } from "../api/keys";
import { useClock } from "../session/time";
import { FindLine, Pages, useFinding } from "../shell/Finding";
import { Page } from "../shell/Page";
import { Trouble } from "../shell/Trouble";
import { VerdictMark } from "../shell/Verdict";
import { Waiting } from "../shell/Waiting";
import { numerals } from "../theme/tokens";

/** The records of the practice, the newest first; looked for by patient, or those that wait to be signed. */
export default function RecordsView() {
  const finding = useFinding<"all" | "unsigned">("all");
  const { q, page } = finding;
  const unsigned = finding.which === "unsigned";
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
      <FindLine
        finding={finding}
        label="Patient: name, chart number or date of birth"
        whichLabel="Which records"
        options={[
          { value: "all", name: "all" },
          { value: "unsigned", name: "not signed" },
        ]}
      />
      {rows.length === 0 ? (
        <Box>
          {q || unsigned
            ? "Try fewer letters, or all records: none was found."
            : "No records yet. Finish a restoration at the chair and its record is written here."}
        </Box>
      ) : (
        <Rows rows={rows} />
      )}
      <Pages finding={finding} pages={pages} />
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
