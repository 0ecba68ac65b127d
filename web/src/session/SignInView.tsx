import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import TextField from "@mui/material/TextField";
import { type FormEvent, useState } from "react";
import type { Schemas } from "../api/client";
import { paper } from "../theme/tokens";
import { FirstPage } from "./FirstPage";
import { useSignIn } from "./queries";

/** The sign-in, with the caution that belongs before everything else. */
export function SignInView({ demo }: { demo: Schemas["DemoAccount"][] }) {
  const signIn = useSignIn();
  const [username, setUsername] = useState("");
  const [password, setPassword] = useState("");

  function submit(event: FormEvent) {
    event.preventDefault();
    signIn.mutate({ username, password });
  }

  return (
    <FirstPage>
      <Box
        component="form"
        onSubmit={submit}
        sx={{ display: "flex", flexDirection: "column", gap: 2 }}
      >
        <Box component="h1" sx={{ m: 0, fontSize: 26 }}>
          Sign in
        </Box>
        <TextField
          label="User name"
          autoComplete="username"
          autoFocus
          value={username}
          onChange={(e) => setUsername(e.target.value)}
        />
        <TextField
          label="Password"
          type="password"
          autoComplete="current-password"
          value={password}
          onChange={(e) => setPassword(e.target.value)}
        />
        {signIn.isError && (
          <Box role="alert" sx={{ color: "error.main", fontWeight: 700 }}>
            {signIn.error.message === "sign in first"
              ? "User name or password is wrong."
              : signIn.error.message}
          </Box>
        )}
        <Button type="submit" variant="contained" size="large" disabled={signIn.isPending}>
          Sign in
        </Button>
        {demo.length > 0 && (
          <Box sx={{ mt: 2, pt: 2, borderTop: `1px solid ${paper.rule}` }}>
            <Box sx={{ mb: 1, color: "text.secondary" }}>
              This is the demo practice. All people in it are made up.
            </Box>
            <Box sx={{ display: "flex", gap: 1, flexWrap: "wrap" }}>
              {demo.map((account) => (
                <Button
                  key={account.username}
                  variant="outlined"
                  onClick={() =>
                    signIn.mutate({ username: account.username, password: account.password })
                  }
                >
                  {account.full_name}, {account.role}
                </Button>
              ))}
            </Box>
          </Box>
        )}
      </Box>
    </FirstPage>
  );
}
