import Box from "@mui/material/Box";
import { useQuery } from "@tanstack/react-query";
import { Link } from "react-router";
import { client, unwrap } from "../api/client";
import { keys } from "../api/keys";
import { useClock } from "../session/time";
import { Trouble } from "../shell/Trouble";
import { VerdictMark } from "../shell/Verdict";
import { Waiting } from "../shell/Waiting";
import { numerals, paper } from "../theme/tokens";

/** All records of the practice, newest first. */
export default function RecordsView() {
  const clock = useClock();
  const records = useQuery({
    queryKey: keys.records,
    queryFn: () => unwrap(client.GET("/api/records")),
    refetchOnMount: "always",
  });
  if (records.isPending) return <Waiting />;
  if (records.isError)
    return <Trouble error={records.error} again={() => void records.refetch()} />;
  return (
    <Box sx={{ p: { xs: 2, md: 3 }, width: "100%", maxWidth: 900, mx: "auto" }}>
      <Box component="h1" sx={{ m: 0, mb: 2, fontSize: 26 }}>
        Records
      </Box>
      <Box
        component="a"
        href="/api/waste-log"
        download
        sx={{ display: "inline-block", mb: 2, py: 1, color: paper.verdigris }}
      >
        Waste log (CSV)
      </Box>
      {records.data.length === 0 && (
        <Box>No records yet. Finish a restoration at the chair and its record is written here.</Box>
      )}
      {records.data.map((r) => (
        <Box
          key={r.id}
          component={Link}
          to={`/records/${r.id}`}
          sx={{
            display: "grid",
            gridTemplateColumns: "90px 1fr auto",
            gap: 2,
            alignItems: "center",
            p: 2,
            mb: 1,
            color: "inherit",
            textDecoration: "none",
            bgcolor: paper.sheet,
            border: `1px solid ${paper.rule}`,
            ...numerals,
          }}
        >
          <Box sx={{ fontSize: 24, fontWeight: 700 }}>
            {r.tooth} <span style={{ fontSize: 15, fontWeight: 400 }}>{r.surfaces}</span>
          </Box>
          <Box>
            <strong>{r.patient}</strong>
            {r.visit && `, ${r.visit.toLowerCase()}`}
            <Box sx={{ color: "text.secondary" }}>
              {clock.moment(r.finished_at)} · {r.deviations} deviations
            </Box>
          </Box>
          <Box sx={{ display: "flex", gap: 1, alignItems: "center" }}>
            <VerdictMark verdict={r.signed_at ? "pass" : "caution"} />
            {r.signed_at ? "signed" : "not signed"}
          </Box>
        </Box>
      ))}
    </Box>
  );
}
