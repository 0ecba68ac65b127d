import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import TextField from "@mui/material/TextField";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { type Schemas, client, unwrap } from "../api/client";
import { keys } from "../api/keys";
import { useSession } from "../session/queries";
import { answers } from "../session/roles";
import { useClock } from "../session/time";
import { VerdictMark } from "../shell/Verdict";
import { paper } from "../theme/tokens";

type Record = Schemas["RecordOut"];

/** The dentist's words and signature; once signed, only amendments beneath. */
export function Signing({ record }: { record: Record }) {
  const { data: session } = useSession();
  const mayWrite = answers(session?.user?.role);
  return (
    <Box sx={{ mt: 3, pt: 2, borderTop: `2px solid ${paper.ink}` }}>
      {record.signed_at ? <Signed record={record} /> : null}
      {mayWrite && (record.signed_at ? <Amend record={record} /> : <Sign record={record} />)}
      {!mayWrite && !record.signed_at && <Box>Waits for the dentist’s signature.</Box>}
    </Box>
  );
}

function Signed({ record }: { record: Record }) {
  const clock = useClock();
  return (
    <>
      <Box sx={{ whiteSpace: "pre-wrap", fontSize: 17 }} data-testid="free-text">
        {record.free_text || "No further words."}
      </Box>
      {record.seals.map((seal) => (
        <Box key={seal.sequence} sx={{ mt: 1.5, display: "flex", gap: 1, alignItems: "start" }}>
          <VerdictMark verdict="pass" />
          <Box>
            {seal.kind === "amendment" && (
              <Box sx={{ whiteSpace: "pre-wrap", fontSize: 17 }}>Amended: {seal.text}</Box>
            )}
            <Box sx={{ color: "text.secondary" }}>
              Signed by {seal.signed_by}, {clock.moment(seal.signed_at)} · seal {seal.sequence},{" "}
              <code>{seal.hash.slice(0, 12)}</code>
            </Box>
          </Box>
        </Box>
      ))}
    </>
  );
}

function useRecordCall<T>(id: number, call: (body: T) => Promise<Record>) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: call,
    onSuccess: (record) => queries.setQueryData(keys.record(id), record),
  });
}

function Sign({ record }: { record: Record }) {
  const [text, setText] = useState(record.free_text);
  const [password, setPassword] = useState("");
  const path = { params: { path: { record_id: record.id } } };
  const keep = useRecordCall(record.id, (free_text: string) =>
    unwrap(client.PATCH("/api/records/{record_id}", { ...path, body: { free_text } })),
  );
  const sign = useRecordCall(record.id, (body: Schemas["SignRecord"]) =>
    unwrap(client.POST("/api/records/{record_id}/sign", { ...path, body })),
  );
  return (
    <Box
      component="form"
      className="no-print"
      onSubmit={(e: React.FormEvent) => {
        e.preventDefault();
        sign.mutate({ free_text: text, password });
      }}
      sx={{ display: "grid", gap: 1.5, maxWidth: 720 }}
    >
      <TextField
        label="In your own words"
        multiline
        minRows={3}
        value={text}
        onChange={(e) => setText(e.target.value)}
        onBlur={() => text !== record.free_text && keep.mutate(text)}
      />
      <Box sx={{ display: "flex", flexWrap: "wrap", gap: 1.5 }}>
        <TextField
          label="Your password, to sign"
          type="password"
          autoComplete="current-password"
          value={password}
          onChange={(e) => setPassword(e.target.value)}
          sx={{ width: 280 }}
        />
        <Button
          type="submit"
          variant="contained"
          size="large"
          disabled={!password || sign.isPending}
        >
          Sign the record
        </Button>
      </Box>
      {sign.isError && (
        <Box role="alert" sx={{ color: "error.main", fontWeight: 700 }}>
          {sign.error.message}
        </Box>
      )}
      <Box sx={{ color: "text.secondary" }}>A signed record is never changed, only amended.</Box>
    </Box>
  );
}

function Amend({ record }: { record: Record }) {
  const [text, setText] = useState("");
  const [password, setPassword] = useState("");
  const amend = useRecordCall(record.id, (body: Schemas["AmendIn"]) =>
    unwrap(
      client.POST("/api/records/{record_id}/amendments", {
        params: { path: { record_id: record.id } },
        body,
      }),
    ),
  );
  return (
    <Box
      component="form"
      className="no-print"
      onSubmit={(e: React.FormEvent) => {
        e.preventDefault();
        amend.mutate(
          { text, password },
          {
            onSuccess: () => {
              setText("");
              setPassword("");
            },
          },
        );
      }}
      sx={{ display: "flex", flexWrap: "wrap", gap: 1.5, mt: 2, alignItems: "start" }}
    >
      <TextField
        label="Amendment"
        multiline
        value={text}
        onChange={(e) => setText(e.target.value)}
        sx={{ flex: 1, minWidth: 260 }}
      />
      <TextField
        label="Your password, to sign"
        type="password"
        autoComplete="current-password"
        value={password}
        onChange={(e) => setPassword(e.target.value)}
      />
      <Button type="submit" variant="outlined" size="large" disabled={!text.trim() || !password}>
        Amend
      </Button>
      {amend.isError && (
        <Box role="alert" sx={{ color: "error.main", fontWeight: 700, width: "100%" }}>
          {amend.error.message}
        </Box>
      )}
    </Box>
  );
}
