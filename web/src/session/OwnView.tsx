import Alert from "@mui/material/Alert";
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import { type FormEvent, useState } from "react";
import { Field, otherwise } from "../shell/Field";
import { Page } from "../shell/Page";
import { Toggles } from "../shell/Toggles";
import { useSession, useSetOwn, useSetPassword } from "./queries";

const NOTATIONS = [
  { value: "two_digit", name: "36" },
  { value: "number", name: "#19" },
  { value: "right_angle", name: "\u23016" },
];

/** What everybody sets for themselves: password, tooth notation, sound. */
export default function OwnView() {
  const user = useSession().data?.user;
  const setOwn = useSetOwn();
  return (
    <Page title={user?.full_name ?? ""} beside={`${user?.username}, ${user?.role}`}>
      <Box sx={{ display: "grid", gap: 3, maxWidth: 460 }}>
        <Box>
          <Box component="h2" sx={{ m: 0, mb: 1, fontSize: 18 }}>
            Tooth notation
          </Box>
          <Toggles
            label="Tooth notation"
            value={user?.notation ?? "two_digit"}
            options={NOTATIONS}
            onChange={(notation) => setOwn.mutate({ notation })}
          />
        </Box>
        <Box>
          <Box component="h2" sx={{ m: 0, mb: 1, fontSize: 18 }}>
            Sound at the chair
          </Box>
          <Toggles
            label="Sound at the chair"
            value={user?.hears ? "on" : "off"}
            options={[
              { value: "on", name: "from the first tap or key" },
              { value: "off", name: "off at first" },
            ]}
            onChange={(told) => setOwn.mutate({ hears: told === "on" })}
          />
        </Box>
        <PasswordForm />
      </Box>
    </Page>
  );
}

function PasswordForm() {
  const change = useSetPassword();
  const [old, setOld] = useState("");
  const [password, setPassword] = useState("");

  function submit(event: FormEvent) {
    event.preventDefault();
    change.mutate(
      { old, password },
      {
        onSuccess: () => {
          setOld("");
          setPassword("");
        },
      },
    );
  }

  const others = otherwise(change.error, ["password"]);
  return (
    <Box component="form" onSubmit={submit} noValidate sx={{ display: "grid", gap: 2 }}>
      <Box component="h2" sx={{ m: 0, fontSize: 18 }}>
        Password
      </Box>
      <Field
        label="Old password"
        type="password"
        autoComplete="current-password"
        value={old}
        onChange={setOld}
      />
      <Field
        label="New password"
        type="password"
        autoComplete="new-password"
        path="password"
        value={password}
        onChange={setPassword}
        refused={change.error}
        helperText="Ends your other sessions."
      />
      {others && <Alert severity="error">{others}</Alert>}
      {change.isSuccess && <Alert severity="success">Password changed.</Alert>}
      <Button
        type="submit"
        variant="contained"
        disabled={!old || !password || change.isPending}
        sx={{ justifySelf: "start" }}
      >
        Change password
      </Button>
    </Box>
  );
}
