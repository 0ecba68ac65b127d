import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Table from "@mui/material/Table";
import TableBody from "@mui/material/TableBody";
import TableCell from "@mui/material/TableCell";
import TableHead from "@mui/material/TableHead";
import TableRow from "@mui/material/TableRow";
import { useState } from "react";
import { Link, useNavigate } from "react-router";
import { useSession } from "../session/queries";
import { answers } from "../session/roles";
import { dayOf, useClock } from "../session/time";
import { FindLine, Pages, useFinding } from "../shell/Finding";
import { Page } from "../shell/Page";
import { Trouble } from "../shell/Trouble";
import { Waiting } from "../shell/Waiting";
import { paper } from "../theme/tokens";
import { PatientForm } from "./PatientForm";
import { PatientsFile } from "./PatientsFile";
import { usePatients } from "./queries";

/** The patients of the practice, looked for by name, chart number or date of birth. */
export default function PatientsView() {
  const finding = useFinding<"here" | "archived">("here");
  const [isAdding, setAdding] = useState(false);
  const [isFiling, setFiling] = useState(false);
  const role = useSession().data?.user?.role;
  const { q, page, which } = finding;
  const found = usePatients(q, page, which === "archived");
  const clock = useClock();
  const navigate = useNavigate();
  if (found.isPending) return <Waiting />;
  if (found.isError) return <Trouble error={found.error} again={() => void found.refetch()} />;
  const { rows, count, pages } = found.data;
  return (
    <Page
      title="Patients"
      beside={<span role="status">{count === 1 ? "1 found" : `${count} found`}</span>}
      actions={
        <>
          <Button component={Link} to="/try">
            Try a cavity
          </Button>
          {answers(role) && <Button onClick={() => setFiling(true)}>As a file</Button>}
          <Button variant="contained" onClick={() => setAdding(true)}>
            Add a patient
          </Button>
        </>
      }
    >
      <FindLine
        finding={finding}
        label="Name, chart number or date of birth"
        whichLabel="Which patients"
        isWhatFor
        options={[
          { value: "here", name: "patients" },
          { value: "archived", name: "archived" },
        ]}
      />
      <Box sx={{ overflowX: "auto" }}>
        <Table>
          <TableHead>
            <TableRow>
              <TableCell>Name</TableCell>
              <TableCell>Born</TableCell>
              <TableCell>Chart</TableCell>
              <TableCell>{which === "archived" ? "Archived for" : "Expected"}</TableCell>
            </TableRow>
          </TableHead>
          <TableBody>
            {rows.map((row) => (
              <TableRow key={row.id} hover>
                <TableCell>
                  <Box
                    component={Link}
                    to={`/patients/${row.id}`}
                    sx={{ color: "inherit", fontWeight: 700, display: "block", py: 1 }}
                  >
                    {row.full_name}
                  </Box>
                  {row.alerts.map((alert) => (
                    <Box component="span" key={alert} sx={{ color: paper.brick, mr: 1.5 }}>
                      {alert}
                    </Box>
                  ))}
                </TableCell>
                <TableCell sx={{ whiteSpace: "nowrap" }}>
                  {dayOf(row.born_on)} ({row.age_years})
                </TableCell>
                <TableCell>{row.chart_number}</TableCell>
                <TableCell>
                  {row.archived_for ||
                    (row.next_visit &&
                      `${clock.shortDay(row.next_visit)}, ${clock.time(row.next_visit)}`)}
                </TableCell>
              </TableRow>
            ))}
          </TableBody>
        </Table>
      </Box>
      {rows.length === 0 && (
        <Box sx={{ mt: 2 }}>
          {q ? "Try fewer letters: nobody was found." : "No patients yet. Add the first."}
        </Box>
      )}
      <Pages finding={finding} pages={pages} />
      {isFiling && <PatientsFile onDone={() => setFiling(false)} />}
      {isAdding && (
        <PatientForm
          onDone={() => setAdding(false)}
          onAdded={(id) => void navigate(`/patients/${id}`)}
        />
      )}
    </Page>
  );
}
