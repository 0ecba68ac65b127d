import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import TextField from "@mui/material/TextField";
import { type FormEvent, useState } from "react";
import type { Schemas } from "../api/client";
import { paper } from "../theme/tokens";
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
    <Box
      component="main"
      sx={{
        minHeight: "100dvh",
        display: "grid",
        gridTemplateColumns: { xs: "1fr", md: "1.15fr 1fr" },
      }}
    >
      <Box
        sx={{
          bgcolor: paper.ink,
          color: paper.sheet,
          p: { xs: 3, md: 7 },
          display: "flex",
          flexDirection: "column",
          justifyContent: "space-between",
          gap: 4,
        }}
      >
        <Box>
          <Box sx={{ fontSize: { xs: 34, md: 52 }, fontWeight: 700, lineHeight: 1.05 }}>
            Apt Mallet
          </Box>
          <Box sx={{ mt: 2, fontSize: { xs: 17, md: 21 }, maxWidth: 460, lineHeight: 1.4 }}>
            Plans direct restorations from your cavity measurements and curing light, and guides
            placement step by step.
          </Box>
        </Box>
        <Emblem />
        <Box sx={{ fontSize: 14, maxWidth: 480, lineHeight: 1.5, opacity: 0.92 }}>
          Not a certified medical device. It advises; a dentist decides and signs. Local codes and
          the manufacturers’ instructions come first.
        </Box>
      </Box>
      <Box
        component="form"
        onSubmit={submit}
        sx={{
          p: { xs: 3, md: 7 },
          display: "flex",
          flexDirection: "column",
          justifyContent: "center",
          gap: 2,
          width: "100%",
          maxWidth: 520,
        }}
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
    </Box>
  );
}

/** A crown in section with its layers, drawn as on the Bench. */
function Emblem() {
  return (
    <Box sx={{ display: { xs: "none", md: "block" } }} aria-hidden="true">
      <svg viewBox="0 0 420 250" width="100%" style={{ maxWidth: 460 }}>
        <defs>
          <pattern
            id="e1"
            width="9"
            height="9"
            patternUnits="userSpaceOnUse"
            patternTransform="rotate(45)"
          >
            <path d="M0 0V9" stroke={paper.sheet} strokeWidth="1.2" />
          </pattern>
          <pattern
            id="e2"
            width="9"
            height="9"
            patternUnits="userSpaceOnUse"
            patternTransform="rotate(-45)"
          >
            <path d="M0 0V9" stroke={paper.sheet} strokeWidth="1.2" opacity=".6" />
          </pattern>
        </defs>
        <g fill="none" stroke={paper.sheet} strokeWidth="2.5" strokeLinejoin="round">
          <path d="M90 245C70 190 52 150 62 105C70 66 100 52 132 34C160 52 182 66 210 68C240 64 262 52 292 32C322 46 352 66 360 104C368 150 350 190 332 245" />
          <path
            d="M112 112H276V44C252 58 232 67 210 68C182 66 160 52 132 34L94 58Z"
            fill="url(#e1)"
            strokeWidth="1.5"
          />
          <path
            d="M62 176C54 150 56 126 62 105C66 84 78 70 94 58L112 112V176Z"
            fill="url(#e2)"
            strokeWidth="1.5"
          />
          <path d="M40 6H200V22H40Z" strokeWidth="2" />
          <path
            d="M48 28L66 170M192 28L110 170"
            strokeWidth="1"
            strokeDasharray="6 6"
            opacity=".7"
          />
        </g>
      </svg>
    </Box>
  );
}
