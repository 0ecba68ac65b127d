import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import { keepPreviousData, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useNavigate, useParams } from "react-router";
import { type Schemas, client, unwrap } from "../api/client";
import { keys } from "../api/keys";
import { useClock } from "../session/time";
import { Trouble } from "../shell/Trouble";
import { Verdict } from "../shell/Verdict";
import { Waiting } from "../shell/Waiting";
import { numerals, paper } from "../theme/tokens";
import { DayLine } from "./DayLine";
import { type Booked, VisitButton, isGone } from "./VisitButton";

type Visit = Schemas["VisitOut"];

/** A day: who is next, on which tooth, and what is missing before each can start. */
export default function TodayView() {
  const asked = useParams().day;
  const day = useQuery({
    queryKey: asked ? keys.day(asked) : keys.today,
    queryFn: () => unwrap(client.GET("/api/today", { params: { query: { day: asked } } })),
    placeholderData: keepPreviousData,
    refetchOnMount: "always",
  });
  if (day.isPending) return <Waiting />;
  if (day.isError) return <Trouble error={day.error} again={() => void day.refetch()} />;
  return <Day told={day.data} />;
}

function Day({ told }: { told: Schemas["TodayOut"] }) {
  const clock = useClock();
  const [chair, setChair] = useState("");
  const isIn = (one: { chair: string }) => !chair || one.chair === chair;
  const booked = told.booked.filter(isIn);
  const expected = booked.filter((visit) => !isGone(visit));
  const here = new Set(told.booked.map((visit) => visit.id));
  const coming = told.visits.filter((row) => !here.has(row.visit_id ?? 0)).filter(isIn);
  const next = told.is_today ? told.visits.find((row) => row.status !== "done") : undefined;
  const count = told.visits.filter((row) => !row.visit && isIn(row)).length;
  const rowOf = (row: Visit, visit?: Booked) => (
    <VisitRow
      key={row.part_id}
      visit={row}
      time={row.starts_at ? clock.time(row.starts_at) : ""}
      day={visit || !row.starts_at ? "" : clock.shortDay(row.starts_at)}
      isNext={row === next}
      booked={visit}
    />
  );
  return (
    <Box sx={{ p: { xs: 2, md: 3 }, width: "100%", maxWidth: 1180, mx: "auto" }}>
      <DayLine told={told} count={count} chair={chair} onChair={setChair} />
      {told.booked.length === 0 && coming.length === 0 && (
        <Box>Nothing is booked. Book a visit from a patient’s page.</Box>
      )}
      <Box component="ol" sx={{ listStyle: "none", m: 0, p: 0, display: "grid", gap: 1.5 }}>
        {expected.map((visit) => {
          const rows = told.visits.filter((row) => row.visit_id === visit.id);
          return rows.length > 0
            ? rows.map((row) => rowOf(row, visit))
            : [<EmptyRow key={`v${visit.id}`} visit={visit} time={clock.time(visit.starts_at)} />];
        })}
        {coming.map((row) => rowOf(row))}
        {booked.filter(isGone).map((visit) => (
          <EmptyRow key={`v${visit.id}`} visit={visit} time={clock.time(visit.starts_at)} />
        ))}
      </Box>
    </Box>
  );
}

/** A visit that nothing is to be placed at yet, or that was called off. */
function EmptyRow({ visit, time }: { visit: Booked; time: string }) {
  return (
    <Box
      component="li"
      sx={{
        display: "flex",
        flexWrap: "wrap",
        gap: 2,
        alignItems: "center",
        p: 2,
        border: `1px dashed ${paper.rule}`,
      }}
    >
      <Box sx={{ fontSize: 24, fontWeight: 700, ...numerals }}>{time}</Box>
      <Box>
        <Box
          component={Link}
          to={`/patients/${visit.patient_id}`}
          sx={{ color: "inherit", fontSize: 18, fontWeight: 700 }}
        >
          {visit.patient}
        </Box>
        <Box sx={{ color: "text.secondary" }}>
          {isGone(visit) ? visit.status.replaceAll("_", " ") : "no restoration yet"} · {visit.chair}
        </Box>
      </Box>
      <Box sx={{ ml: "auto" }}>
        <VisitButton visit={visit} />
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
  /** The visit as it is booked, of one that can be moved here. */
  booked?: Booked | undefined;
}

function VisitRow({ visit, time, day, isNext, booked }: RowProps) {
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
        {booked && <VisitButton visit={booked} />}
      </Box>
      <Box sx={{ ...numerals }}>
        <Box sx={{ fontSize: 30, fontWeight: 700, lineHeight: 1.1 }}>{visit.tooth}</Box>
        <Box sx={{ fontSize: 15 }}>{visit.surfaces}</Box>
      </Box>
      <Box sx={{ gridColumn: { xs: "1 / -1", md: "auto" } }}>
        <Box
          component={Link}
          to={`/patients/${visit.patient_id}`}
          sx={{ color: "inherit", textDecoration: "none", fontSize: 18, fontWeight: 700 }}
        >
          {visit.patient}
        </Box>
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
        client.POST("/api/parts/{part_id}/runs", {
          params: { path: { part_id: visit.part_id ?? 0 } },
        }),
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
