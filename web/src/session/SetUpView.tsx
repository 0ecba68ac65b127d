import Alert from "@mui/material/Alert";
import Autocomplete from "@mui/material/Autocomplete";
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import TextField from "@mui/material/TextField";
import { type FormEvent, useState } from "react";
import { Field, otherwise, saidOf } from "../shell/Field";
import { Toggles } from "../shell/Toggles";
import { FirstPage } from "./FirstPage";
import { PLACES, chairsIn } from "./practice";
import { useSetUp } from "./queries";

const ZONES = Intl.supportedValuesOf("timeZone");
const HERE = Intl.DateTimeFormat().resolvedOptions().timeZone;
const PATHS = ["name", "zone", "place", "chairs", "full_name", "username", "password"];

/** Sets up a server's first practice and its owner; once, then never again. */
export function SetUpView() {
  const setUp = useSetUp();
  const [told, setTold] = useState({
    name: "",
    zone: HERE,
    place: "elsewhere",
    chairs: "chair 1, chair 2",
    full_name: "",
    username: "",
    password: "",
  });
  const set = (name: keyof typeof told) => (value: string) =>
    setTold((before) => ({ ...before, [name]: value }));
  const of = (name: keyof typeof told) => ({
    path: name,
    value: told[name],
    onChange: set(name),
    refused: setUp.error,
  });

  function submit(event: FormEvent) {
    event.preventDefault();
    setUp.mutate({ ...told, chairs: chairsIn(told.chairs) });
  }

  const others = otherwise(setUp.error, PATHS);
  return (
    <FirstPage>
      <Box component="form" onSubmit={submit} noValidate sx={{ display: "grid", gap: 2 }}>
        <Box component="h1" sx={{ m: 0, fontSize: 26 }}>
          Set up your practice
        </Box>
        <Field label="Name of the practice" autoFocus {...of("name")} />
        <Autocomplete
          options={ZONES}
          value={told.zone}
          disableClearable
          onChange={(_, zone) => set("zone")(zone)}
          renderInput={(params) => (
            <TextField
              {...params}
              size="small"
              label="Time zone"
              error={saidOf(setUp.error, "zone") !== ""}
              helperText={saidOf(setUp.error, "zone")}
            />
          )}
        />
        <Box>
          <Box sx={{ fontSize: 14, color: "text.secondary", mb: 0.5 }}>
            Rules of which place to show with the choice of material
          </Box>
          <Toggles label="Place" value={told.place} options={PLACES} onChange={set("place")} />
        </Box>
        <Field label="Chairs, with commas between" {...of("chairs")} />
        <Box component="h2" sx={{ m: 0, mt: 1, fontSize: 18 }}>
          You: owner and dentist
        </Box>
        <Field label="Your name" autoComplete="name" {...of("full_name")} />
        <Field
          label="User name"
          autoComplete="username"
          helperText="Small letters and digits."
          {...of("username")}
        />
        <Field
          label="Password"
          type="password"
          autoComplete="new-password"
          helperText="At least 8 characters; a few words are best."
          {...of("password")}
        />
        {others && <Alert severity="error">{others}</Alert>}
        <Button type="submit" variant="contained" size="large" disabled={setUp.isPending}>
          Set up and sign in
        </Button>
      </Box>
    </FirstPage>
  );
}
