import Autocomplete from "@mui/material/Autocomplete";
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Pagination from "@mui/material/Pagination";
import Table from "@mui/material/Table";
import TableBody from "@mui/material/TableBody";
import TableCell from "@mui/material/TableCell";
import TableHead from "@mui/material/TableHead";
import TableRow from "@mui/material/TableRow";
import TextField from "@mui/material/TextField";
import { useState } from "react";
import { useClock } from "../session/time";
import { DayField } from "../shell/DayField";
import { Page } from "../shell/Page";
import { Trouble } from "../shell/Trouble";
import { Waiting } from "../shell/Waiting";
import { type AuditAsked, asked, useAudit } from "./queries";

/** Who did what and when. */
export default function AuditView() {
  const [told, setTold] = useState<AuditAsked>({
    who: "",
    action: "",
    since: "",
    until: "",
    page: 1,
  });
  const trail = useAudit(told);
  const clock = useClock();
  if (trail.isPending) return <Waiting />;
  if (trail.isError) return <Trouble error={trail.error} again={() => void trail.refetch()} />;
  const { rows, count, page, pages, actions, people } = trail.data;
  const narrow = (changed: Partial<AuditAsked>) => setTold({ ...told, page: 1, ...changed });
  const query = new URLSearchParams(
    Object.entries(asked(told)).map(([name, value]) => [name, String(value)]),
  );
  return (
    <Page
      title="Audit trail"
      beside={`${count} entries`}
      actions={
        <Button component="a" href={`/api/audit-file?${query.toString()}`} variant="outlined">
          As a CSV file
        </Button>
      }
    >
      <Box sx={{ display: "flex", gap: 1.5, flexWrap: "wrap", mb: 2 }}>
        <Autocomplete
          options={people}
          value={told.who || null}
          onChange={(_, who) => narrow({ who: who ?? "" })}
          sx={{ width: 240 }}
          renderInput={(params) => <TextField {...params} size="small" label="Who" />}
        />
        <Autocomplete
          options={actions}
          value={told.action || null}
          getOptionLabel={inWords}
          onChange={(_, action) => narrow({ action: action ?? "" })}
          sx={{ width: 260 }}
          renderInput={(params) => <TextField {...params} size="small" label="What" />}
        />
        <DayField label="From" value={told.since} onChange={(since) => narrow({ since })} />
        <DayField label="To" value={told.until} onChange={(until) => narrow({ until })} />
      </Box>
      <Box sx={{ overflowX: "auto" }}>
        <Table size="small">
          <TableHead>
            <TableRow>
              <TableCell>When</TableCell>
              <TableCell>Who</TableCell>
              <TableCell>What</TableCell>
              <TableCell>Of</TableCell>
              <TableCell>More</TableCell>
            </TableRow>
          </TableHead>
          <TableBody>
            {rows.map((row) => (
              <TableRow key={row.id}>
                <TableCell sx={{ whiteSpace: "nowrap" }}>{clock.moment(row.at)}</TableCell>
                <TableCell>{row.who}</TableCell>
                <TableCell>{inWords(row.action)}</TableCell>
                <TableCell>{row.subject}</TableCell>
                <TableCell sx={{ wordBreak: "break-word" }}>{more(row.details)}</TableCell>
              </TableRow>
            ))}
          </TableBody>
        </Table>
      </Box>
      {pages > 1 && (
        <Pagination
          sx={{ mt: 2 }}
          count={pages}
          page={page}
          onChange={(_, to) => setTold({ ...told, page: to })}
        />
      )}
    </Page>
  );
}

/** An action as it is read: `accounts.person.added` is "person added". */
function inWords(action: string): string {
  return action.split(".").slice(1).join(" ").replaceAll("_", " ");
}

function more(details: Record<string, unknown>): string {
  return Object.entries(details)
    .map(
      ([name, value]) =>
        `${name.replaceAll("_", " ")}: ${typeof value === "object" ? JSON.stringify(value) : String(value)}`,
    )
    .join("; ");
}
