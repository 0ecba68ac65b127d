import Alert from "@mui/material/Alert";
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Checkbox from "@mui/material/Checkbox";
import Dialog from "@mui/material/Dialog";
import DialogActions from "@mui/material/DialogActions";
import DialogContent from "@mui/material/DialogContent";
import DialogTitle from "@mui/material/DialogTitle";
import FormControlLabel from "@mui/material/FormControlLabel";
import MenuItem from "@mui/material/MenuItem";
import Select from "@mui/material/Select";
import Table from "@mui/material/Table";
import TableBody from "@mui/material/TableBody";
import TableCell from "@mui/material/TableCell";
import TableHead from "@mui/material/TableHead";
import TableRow from "@mui/material/TableRow";
import { useState } from "react";
import { Link } from "react-router";
import { Field, otherwise } from "../shell/Field";
import { FormDialog } from "../shell/FormDialog";
import { Page } from "../shell/Page";
import { Trouble } from "../shell/Trouble";
import { Waiting } from "../shell/Waiting";
import { PracticeForm } from "./PracticeForm";
import {
  type Person,
  useAddPerson,
  useChangePerson,
  useIssueLink,
  usePeople,
  usePractice,
} from "./queries";

const ROLES = ["dentist", "assistant", "trainee", "teacher"];

/** Who works here, what each may do, and links to set passwords. */
export default function PeopleView() {
  const people = usePeople();
  const practice = usePractice().data;
  const [isAdding, setAdding] = useState(false);
  const [isChanging, setChanging] = useState(false);
  if (people.isPending) return <Waiting />;
  if (people.isError) return <Trouble error={people.error} again={() => void people.refetch()} />;
  return (
    <Page
      title="People"
      actions={
        <>
          {practice && <Button onClick={() => setChanging(true)}>Change the practice</Button>}
          <Button component={Link} to="/audit">
            Audit trail
          </Button>
          <Button variant="contained" onClick={() => setAdding(true)}>
            Add a person
          </Button>
        </>
      }
    >
      <Box sx={{ overflowX: "auto" }}>
        <Table>
          <TableHead>
            <TableRow>
              <TableCell>Name</TableCell>
              <TableCell>User name</TableCell>
              <TableCell>Role</TableCell>
              <TableCell>Owner</TableCell>
              <TableCell>Access</TableCell>
            </TableRow>
          </TableHead>
          <TableBody>
            {people.data.map((person) => (
              <PersonRow key={person.id} person={person} />
            ))}
          </TableBody>
        </Table>
      </Box>
      {isAdding && <AddPerson onDone={() => setAdding(false)} />}
      {isChanging && practice && (
        <PracticeForm practice={practice} onDone={() => setChanging(false)} />
      )}
    </Page>
  );
}

function PersonRow({ person }: { person: Person }) {
  const change = useChangePerson(person.id);
  const issue = useIssueLink(person.id);
  const said = otherwise(change.error ?? issue.error, []);
  return (
    <TableRow sx={{ opacity: person.is_active ? 1 : 0.75 }}>
      <TableCell>
        <strong>{person.full_name}</strong>
        {!person.is_active && <Box>deactivated</Box>}
        {person.is_active && !person.has_password && <Box>no password set yet</Box>}
        {said && <Alert severity="error">{said}</Alert>}
      </TableCell>
      <TableCell>{person.username}</TableCell>
      <TableCell>
        <Select
          size="small"
          value={person.role}
          aria-label={`Role of ${person.full_name}`}
          disabled={!person.is_active}
          onChange={(event) => change.mutate({ role: event.target.value })}
        >
          {ROLES.map((role) => (
            <MenuItem key={role} value={role}>
              {role}
            </MenuItem>
          ))}
        </Select>
      </TableCell>
      <TableCell>
        <Checkbox
          checked={person.is_owner}
          disabled={!person.is_active}
          slotProps={{ input: { "aria-label": `${person.full_name} is an owner` } }}
          onChange={(event) => change.mutate({ is_owner: event.target.checked })}
        />
      </TableCell>
      <TableCell sx={{ whiteSpace: "nowrap" }}>
        {person.is_active && (
          <Button size="small" variant="outlined" onClick={() => issue.mutate(undefined)}>
            Link to set a password
          </Button>
        )}{" "}
        <Button size="small" onClick={() => change.mutate({ is_active: !person.is_active })}>
          {person.is_active ? "Deactivate" : "Let in again"}
        </Button>
        {issue.data && (
          <OneTimeLink
            path={issue.data.path}
            name={issue.data.full_name}
            onDone={() => issue.reset()}
          />
        )}
      </TableCell>
    </TableRow>
  );
}

/** Shows a link once: what is kept of it opens nothing. */
function OneTimeLink({ path, name, onDone }: { path: string; name: string; onDone: () => void }) {
  return (
    <Dialog open onClose={onDone} maxWidth="sm" fullWidth>
      <DialogTitle>Link for {name}</DialogTitle>
      <DialogContent sx={{ display: "grid", gap: 1.5 }}>
        <Box>Hand it over in person: whoever opens it sets the password.</Box>
        <Box
          data-testid="one-time-link"
          sx={{ wordBreak: "break-all", fontWeight: 700, userSelect: "all" }}
        >
          {window.location.origin + path}
        </Box>
        <Alert severity="warning">
          Copy it now: it is shown once, works once, and for 24 hours.
        </Alert>
      </DialogContent>
      <DialogActions>
        <Button variant="contained" onClick={onDone}>
          Done
        </Button>
      </DialogActions>
    </Dialog>
  );
}

function AddPerson({ onDone }: { onDone: () => void }) {
  const add = useAddPerson();
  const [told, setTold] = useState({
    full_name: "",
    username: "",
    role: "assistant",
    is_owner: false,
  });

  return (
    <FormDialog
      title="Add a person"
      submitName="Add"
      isPending={add.isPending}
      said={otherwise(add.error, ["full_name", "username"])}
      width="xs"
      onSubmit={() => add.mutate(told, { onSuccess: onDone })}
      onDone={onDone}
    >
      <Field
        label="Name"
        autoFocus
        path="full_name"
        value={told.full_name}
        onChange={(full_name) => setTold({ ...told, full_name })}
        refused={add.error}
      />
      <Field
        label="User name"
        path="username"
        helperText="Small letters and digits."
        value={told.username}
        onChange={(username) => setTold({ ...told, username })}
        refused={add.error}
      />
      <Select
        size="small"
        value={told.role}
        aria-label="Role"
        onChange={(event) => setTold({ ...told, role: event.target.value })}
      >
        {ROLES.map((role) => (
          <MenuItem key={role} value={role}>
            {role}
          </MenuItem>
        ))}
      </Select>
      <FormControlLabel
        control={
          <Checkbox
            checked={told.is_owner}
            onChange={(event) => setTold({ ...told, is_owner: event.target.checked })}
          />
        }
        label="also an owner: people, audit trail"
      />
    </FormDialog>
  );
}
