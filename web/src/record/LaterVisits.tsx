import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import MenuItem from "@mui/material/MenuItem";
import TextField from "@mui/material/TextField";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { ApiError, type Schemas, client, unwrap } from "../api/client";
import { keys } from "../api/keys";
import { DayField, TimeOfDay } from "../shell/DayField";
import { Verdict } from "../shell/Verdict";
import { useSession } from "../session/queries";
import { useClock } from "../session/time";
import { numerals, paper } from "../theme/tokens";

type Later = Schemas["LaterOut"];

/** The visits that a restoration asks for once it is placed: from when, and booking them. */
export function LaterVisits({ restorationId }: { restorationId: number }) {
  const path = { restoration_id: restorationId };
  const later = useQuery({
    queryKey: keys.later(restorationId),
    queryFn: () =>
      unwrap(client.GET("/api/restorations/{restoration_id}/later", { params: { path } })),
  });
  if (!later.data?.length) return null;
  return (
    <Box component="section" aria-label="Next visit" className="no-print" sx={{ mt: 2 }}>
      {later.data.map((one) => (
        <One key={one.purpose} one={one} restorationId={restorationId} />
      ))}
    </Box>
  );
}

function One({ one, restorationId }: { one: Later; restorationId: number }) {
  const clock = useClock();
  const queries = useQueryClient();
  const chairs = useSession().data?.user?.chairs ?? [];
  const [day, setDay] = useState(one.suggested.slice(0, 10));
  const [time, setTime] = useState(one.suggested.slice(11));
  const [chair, setChair] = useState(one.chair);
  const book = useMutation({
    mutationFn: () =>
      unwrap(
        client.POST("/api/restorations/{restoration_id}/later", {
          params: { path: { restoration_id: restorationId } },
          body: { purpose: one.purpose, starts_at: `${day}T${time.trim()}`, chair },
        }),
      ),
    onSuccess: (now) => {
      queries.setQueryData(keys.later(restorationId), now);
      void queries.invalidateQueries({ queryKey: keys.today });
    },
  });
  const refused = book.error instanceof ApiError ? book.error : null;
  const isOpen = !one.status || one.status === "booked";
  return (
    <Box sx={{ border: `2px solid ${paper.ink}`, p: 2, mb: 1 }}>
      <Box component="h2" sx={{ m: 0, fontSize: 20 }}>
        {one.name}
      </Box>
      <Box sx={{ maxWidth: 720 }}>{one.reason}</Box>
      <Box sx={{ mt: 1, fontSize: 20, fontWeight: 700, ...numerals }}>
        {one.starts_at ? (
          <>
            {one.status === "done" ? "Done" : "Booked"}: {clock.moment(one.starts_at)}, {one.chair}
          </>
        ) : (
          <>
            Not before {clock.moment(one.earliest)}
            {one.best_by && `, best by ${clock.moment(one.best_by)}`}
          </>
        )}
      </Box>
      {one.flags.map((flag) => (
        <Verdict
          key={flag.code}
          verdict={flag.level === "stop" ? "fail" : "caution"}
          text={flag.text}
        />
      ))}
      {isOpen && (
        <Box
          component="form"
          onSubmit={(event) => {
            event.preventDefault();
            book.mutate();
          }}
          sx={{ display: "flex", flexWrap: "wrap", gap: 2, mt: 1.5, alignItems: "center" }}
        >
          <DayField label="Day" value={day} onChange={setDay} sx={{ width: 190 }} />
          <TimeOfDay label="Time" value={time} onChange={setTime} sx={{ width: 110 }} />
          <TextField
            select
            size="small"
            label="Chair"
            value={chairs.includes(chair) ? chair : ""}
            onChange={(event) => setChair(event.target.value)}
            sx={{ minWidth: 120 }}
          >
            {chairs.map((name) => (
              <MenuItem key={name} value={name}>
                {name}
              </MenuItem>
            ))}
          </TextField>
          <Button
            type="submit"
            variant={one.starts_at ? "outlined" : "contained"}
            disabled={book.isPending}
          >
            {one.starts_at ? "Move it" : "Book it"}
          </Button>
        </Box>
      )}
      {refused && (
        <Box role="alert" sx={{ mt: 1, color: "error.main" }}>
          {refused.problems.length > 0
            ? refused.problems.map((p) => `${p.got}? Allowed: ${p.allowed}`).join(" ")
            : refused.message}
        </Box>
      )}
      {one.record_id && (
        <Link to={`/records/${one.record_id}`} style={{ color: paper.verdigris }}>
          Its record
        </Link>
      )}
    </Box>
  );
}
