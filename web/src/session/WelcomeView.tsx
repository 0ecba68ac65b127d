import Alert from "@mui/material/Alert";
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import { type FormEvent, useState } from "react";
import { useNavigate, useParams } from "react-router";
import { Field, otherwise } from "../shell/Field";
import { Waiting } from "../shell/Waiting";
import { FirstPage } from "./FirstPage";
import { useLink, useTakeLink } from "./queries";

/** Lets whoever holds a one-time link set a password. */
export default function WelcomeView() {
  const secret = useParams().secret ?? "";
  const link = useLink(secret);
  const take = useTakeLink(secret);
  const navigate = useNavigate();
  const [password, setPassword] = useState("");

  function submit(event: FormEvent) {
    event.preventDefault();
    take.mutate(password, { onSuccess: () => void navigate("/", { replace: true }) });
  }

  if (link.isPending) return <Waiting />;
  const others = otherwise(take.error, ["password"]);
  return (
    <FirstPage>
      {link.isError ? (
        <Alert severity="error">{link.error.message}</Alert>
      ) : (
        <Box component="form" onSubmit={submit} noValidate sx={{ display: "grid", gap: 2 }}>
          <Box component="h1" sx={{ m: 0, fontSize: 26 }}>
            Welcome, {link.data.full_name}
          </Box>
          <Box>
            Your user name is <strong>{link.data.username}</strong>. Set your password; this link
            serves once.
          </Box>
          <Field
            label="Password"
            type="password"
            autoComplete="new-password"
            autoFocus
            path="password"
            helperText="At least 8 characters; a few words are best."
            value={password}
            onChange={setPassword}
            refused={take.error}
          />
          {others && <Alert severity="error">{others}</Alert>}
          <Button type="submit" variant="contained" size="large" disabled={take.isPending}>
            Set password and sign in
          </Button>
        </Box>
      )}
    </FirstPage>
  );
}
