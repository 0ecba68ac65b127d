import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Link, useNavigate } from "react-router";
import { type Schemas, client, unwrap } from "../api/client";
import { keys } from "../api/keys";
import { useClock } from "../session/time";
import { Trouble } from "../shell/Trouble";
import { Verdict } from "../shell/Verdict";
import { Waiting } from "../shell/Waiting";
import { numerals, paper } from "../theme/tokens";

type Visit = Schemas["VisitOut"];

/** Who is next, on which tooth, and what is missing before each can start. */
export default function TodayView() {
  const clock = useClock();
  const today = useQuery({
    queryKey: keys.today,
    queryFn: () => unwrap(client.GET("/api/today")),
    refetchOnMount: "always",
  });
  if (today.isPending) return <Waiting />;
  if (today.isError) return <Trouble error={today.error} again={() => void today.refetch()} />;
  const { visits, now } = today.data;
  const isSameDay = (iso: string) => clock.day(iso) === clock.day(now);
  const next = visits.find((v) => v.status !== "done");
  return (
    <Box sx={{ p: { xs: 2, md: 3 }, width: "100%", maxWidth: 1180, mx: "auto" }}>
      <Box component="h1" sx={{ m: 0, mb: 2, fontSize: 26 }}>
        {clock.day(today.data.now)}
        <Box
          component="span"
          sx={{ ml: 2, fontSize: 16, fontWeight: 400, color: "text.secondary" }}
        >
          {visits.filter((v) => !v.visit).length} restorations
        </Box>
      </Box>
      {visits.length === 0 && <Box>Nothing is booked. Restorations appear here once they are.</Box>}
      <Box component="ol" sx={{ listStyle: "none", m: 0, p: 0, display: "grid", gap: 1.5 }}>
        {visits.map((visit) => (
          <VisitRow
            key={visit.part_id}
            visit={visit}
            time={clock.time(visit.starts_at)}
            day={isSameDay(visit.starts_at) ? "" : clock.shortDay(visit.starts_at)}
            isNext={visit === next}
          />
        ))}
      </Box>
    </Box>
  );
}

interface RowProps {
  visit: Visit;
  time: string;
  /** Where it is not today. */
  day: string;
  isNext: boolean;
}

function VisitRow({ visit, time, day, isNext }: RowProps) {
  const stops = visit.missing.filter((m) => m.level === "stop").length;
  const done = visit.status === "done";
  return (
    <Box
      component="li"
      sx={{
        display: "grid",
        gridTemplateColumns: { xs: "74px 1fr", md: "92px 104px 1fr 270px 172px" },
        columnGap: 2,
        rowGap: 1,
        alignItems: "center",
        p: 2,
        border: isNext ? `2px solid ${paper.ink}` : `1px solid ${paper.rule}`,
        bgcolor: done ? "transparent" : paper.sheet,
      }}
    >
      <Box sx={{ ...numerals }}>
        <Box sx={{ fontSize: isNext ? 30 : 24, fontWeight: 700, lineHeight: 1.1 }}>{time}</Box>
        <Box sx={{ fontSize: 14, color: "text.secondary" }}>
          {isNext ? "next" : day || visit.chair}
        </Box>
      </Box>
      <Box sx={{ ...numerals }}>
        <Box sx={{ fontSize: 30, fontWeight: 700, lineHeight: 1.1 }}>{visit.tooth}</Box>
        <Box sx={{ fontSize: 15 }}>{visit.surfaces}</Box>
      </Box>
      <Box sx={{ gridColumn: { xs: "1 / -1", md: "auto" } }}>
        <Box sx={{ fontSize: 18, fontWeight: 700 }}>{visit.patient}</Box>
        <Box sx={{ color: "text.secondary" }}>{visit.visit || visit.reason}</Box>
        <Box sx={{ fontSize: 14, color: "text.secondary", ...numerals }}>
          {visit.light_seconds !== null
            ? `${visit.light_seconds > 0 ? `${visit.light_seconds} s of light, ` : ""}${visit.chair_minutes} min at the chair`
            : "not planned yet"}
          {(isNext || day) && ` · ${visit.chair}`}
        </Box>
      </Box>
      <Box
        component="ul"
        sx={{ m: 0, p: 0, listStyle: "none", gridColumn: { xs: "1 / -1", md: "auto" } }}
      >
        {done ? (
          <>
            <Verdict
              verdict={visit.signed ? "pass" : "caution"}
              text={visit.signed ? "Done and signed" : "Done, record not signed"}
            />
            {visit.to_book.map((name) => (
              <Verdict key={name} verdict="caution" text={`Not booked: ${name.toLowerCase()}`} />
            ))}
          </>
        ) : (
          visit.missing.map((m) => (
            <Verdict
              key={m.code + m.text}
              verdict={m.level === "stop" ? "fail" : "caution"}
              text={m.text}
            />
          ))
        )}
        {!done && visit.missing.length === 0 && <Verdict verdict="pass" text="Ready to start" />}
      </Box>
      <Box
        sx={{ display: "flex", gap: 1, flexWrap: "wrap", gridColumn: { xs: "1 / -1", md: "auto" } }}
      >
        <Actions visit={visit} canStart={stops === 0} />
      </Box>
    </Box>
  );
}

function Actions({ visit, canStart }: { visit: Visit; canStart: boolean }) {
  const navigate = useNavigate();
  const queries = useQueryClient();
  const start = useMutation({
    mutationFn: () =>
      unwrap(
        client.POST("/api/parts/{part_id}/runs", { params: { path: { part_id: visit.part_id } } }),
      ),
    onSuccess: (run) => {
      void queries.invalidateQueries({ queryKey: keys.today });
      void navigate(`/chair/${run.id}`);
    },
  });
  if (visit.record_id)
    return (
      <Button component={Link} to={`/records/${visit.record_id}`} variant="outlined">
        Record
      </Button>
    );
  return (
    <>
      <Button component={Link} to={`/bench/${visit.restoration_id}`} variant="outlined">
        Bench
      </Button>
      <Button
        variant="contained"
        disabled={!canStart || start.isPending}
        onClick={() => start.mutate()}
      >
        {visit.status === "running" ? "Go on" : "Start"}
      </Button>
      {start.isError && <Box role="alert">{start.error.message}</Box>}
    </>
  );
}
