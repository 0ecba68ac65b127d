import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import { useQuery } from "@tanstack/react-query";
import { Link, useParams } from "react-router";
import { type Schemas, client, unwrap } from "../api/client";
import { keys } from "../api/keys";
import { SheetDrawing } from "../drawing/SheetDrawing";
import type { Sheet as DrawnSheet, Orientation } from "../drawing/geometry";
import { dayOf, useClock } from "../session/time";
import { Trouble } from "../shell/Trouble";
import { signedTenths } from "../shell/numbers";
import { useWidth } from "../shell/useWidth";
import { Waiting } from "../shell/Waiting";
import { numerals, paper } from "../theme/tokens";
import { LaterVisits } from "./LaterVisits";
import { Signing } from "./Signing";

type Record = Schemas["RecordOut"];

/** The record as it wrote itself, with the dentist's words and signature beneath. */
export default function RecordView() {
  const id = Number(useParams().recordId);
  const record = useQuery({
    queryKey: keys.record(id),
    queryFn: () =>
      unwrap(client.GET("/api/records/{record_id}", { params: { path: { record_id: id } } })),
  });
  if (record.isPending) return <Waiting />;
  if (record.isError) return <Trouble error={record.error} again={() => void record.refetch()} />;
  return <Sheet record={record.data} />;
}

function Sheet({ record }: { record: Record }) {
  const clock = useClock();
  const section = record.drawing.sheets[0];
  return (
    <Box
      component="article"
      sx={{
        width: "100%",
        maxWidth: 1100,
        mx: "auto",
        my: { md: 2 },
        p: { xs: 2, md: 4 },
        bgcolor: paper.sheet,
        border: { md: `1px solid ${paper.rule}` },
      }}
    >
      <Box sx={{ display: "flex", flexWrap: "wrap", gap: 2, alignItems: "start" }}>
        <Box sx={{ flex: 1, minWidth: 260 }}>
          <Box component="h1" sx={{ m: 0, fontSize: 28 }}>
            {record.tooth} {record.surfaces}, {record.material}
            {record.visit && `: ${record.visit.toLowerCase()}`}
          </Box>
          <Box sx={{ fontSize: 17 }}>
            {record.tooth_name} · {record.reason}
          </Box>
          <Box sx={{ mt: 1, fontSize: 17 }}>
            <strong>{record.patient}</strong>
          </Box>
          <Box sx={{ color: "text.secondary" }}>
            {record.dentist}, {record.practice}
            <br />
            {clock.moment(record.started_at)} to {clock.time(record.finished_at)} · plan{" "}
            {record.plan_number}, engine {record.engine}
          </Box>
          {record.others.map((other) => (
            <Box key={other.id}>
              <Link to={`/records/${other.id}`} style={{ color: paper.verdigris }}>
                {other.visit || "placed"}, {clock.moment(other.finished_at)}
              </Link>
            </Box>
          ))}
        </Box>
        <Box className="no-print" sx={{ display: "flex", gap: 1 }}>
          <Button
            variant="outlined"
            component="a"
            href={`/api/records/${record.id}/export`}
            download
          >
            Export JSON
          </Button>
          <Button variant="outlined" component="a" href={`/api/records/${record.id}/pdf`} download>
            PDF
          </Button>
          <Button variant="outlined" onClick={() => window.print()}>
            Print
          </Button>
        </Box>
      </Box>
      <Box
        sx={{
          display: "grid",
          gridTemplateColumns: { xs: "minmax(0, 1fr)", md: "420px minmax(0, 1fr)" },
          gap: 3,
          mt: 2,
        }}
      >
        <Box>
          {section && <AsBuilt section={section} orientation={record.drawing} />}
          <Deviations rows={record.deviations} />
          <Holds rows={record.holds} />
        </Box>
        <Box>
          <Decisions rows={record.decisions} />
          <Assumed rows={record.assumptions} />
        </Box>
      </Box>
      {!record.visit && <LaterVisits restorationId={record.restoration_id} />}
      <Placed rows={record.placed} />
      <Measured rows={record.measured} />
      {record.mixes.map((mix) => (
        <Box key={mix.at} sx={numerals}>
          {mix.title}: ready {clock.time(mix.at)}
        </Box>
      ))}
      {record.scrap && (
        <Box aria-label="Scrap" role="note" sx={{ mt: 1, ...numerals }}>
          {record.scrap.capsules} capsule{record.scrap.capsules > 1 ? "s" : ""} opened
          {record.scrap.discarded > 0 && `, ${record.scrap.discarded} discarded`}: about{" "}
          {record.scrap.scrap_mg} mg of scrap, into the closed jar.
        </Box>
      )}
      <Lots rows={record.lots} />
      <Times rows={record.steps} />
      <Signing record={record} />
    </Box>
  );
}

/** Who passed the hold points. */
function Holds({ rows }: { rows: Record["holds"] }) {
  const clock = useClock();
  if (rows.length === 0) return null;
  return (
    <>
      <Heading>Who passed it</Heading>
      <Box component="ul" aria-label="Hold points" sx={{ m: 0, p: 0, listStyle: "none" }}>
        {rows.map((row) => (
          <li key={row.title}>
            {row.title}: {row.by}, {row.role}, {clock.time(row.at)}
          </li>
        ))}
      </Box>
    </>
  );
}

function AsBuilt({ section, orientation }: { section: DrawnSheet; orientation: Orientation }) {
  const [ref, width] = useWidth<HTMLDivElement>();
  const marks = section.marks.filter((m) => !m.id.startsWith("tip") && m.id !== "worst");
  return (
    <Box ref={ref} sx={{ minWidth: 0 }}>
      <SheetDrawing
        sheet={{ ...section, marks }}
        orientation={orientation}
        width={Math.min(width, 420)}
        height={300}
        selected={null}
        onSelect={() => undefined}
      />
    </Box>
  );
}

function Heading({ children }: { children: string }) {
  return (
    <Box component="h2" sx={{ m: 0, mt: 2, mb: 0.5, fontSize: 18 }}>
      {children}
    </Box>
  );
}

function Deviations({ rows }: { rows: Record["deviations"] }) {
  return (
    <>
      <Heading>What differed from the plan</Heading>
      {rows.length === 0 && <Box>Nothing: as planned.</Box>}
      <Box component="ul" aria-label="Deviations" sx={{ m: 0, pl: 2.5 }}>
        {rows.map((d) => (
          <li key={d.kind + d.step_id + (d.at ?? "")}>{d.text}</li>
        ))}
      </Box>
    </>
  );
}

/** What was decided before and during the plan, with what somebody said to it. */
function Decisions({ rows }: { rows: Record["decisions"] }) {
  return (
    <>
      <Heading>What was decided</Heading>
      <Box component="ul" aria-label="Decisions" sx={{ m: 0, pl: 2.5 }}>
        {rows.map(({ topic, about, chosen, said }) => (
          <li key={topic}>
            {about && `${about}: `}
            {chosen}
            {said && <Box sx={{ color: "text.secondary" }}>{said}</Box>}
          </li>
        ))}
      </Box>
    </>
  );
}

/** What nobody told, and what the plan took for it. */
function Assumed({ rows }: { rows: Record["assumptions"] }) {
  if (rows.length === 0) return null;
  return (
    <>
      <Heading>Assumed, not recorded</Heading>
      <Box component="ul" aria-label="Assumed" sx={{ m: 0, pl: 2.5, fontSize: 15 }}>
        {rows.map(({ path, value, unit, why }) => (
          <li key={path}>{unit ? `${String(value)} ${unit}: ${why}` : why}</li>
        ))}
      </Box>
    </>
  );
}

/** The packages that were scanned at the chair. */
function Lots({ rows }: { rows: Record["lots"] }) {
  const clock = useClock();
  if (rows.length === 0) return null;
  return (
    <>
      <Heading>Packages scanned</Heading>
      <Box component="ul" aria-label="Packages scanned" sx={{ m: 0, pl: 2.5, ...numerals }}>
        {rows.map((lot) => (
          <li key={lot.at + lot.text}>
            {clock.time(lot.at)} {lot.name ?? `not in stock: ${lot.text}`}
            {lot.lot && `, lot ${lot.lot}`}
            {lot.expires_on &&
              `, ${lot.is_over ? "expired on" : "expires"} ${dayOf(lot.expires_on)}`}
          </li>
        ))}
      </Box>
    </>
  );
}

const CELL = {
  borderTop: `1px solid ${paper.rule}`,
  padding: "4px 8px 4px 0",
  textAlign: "left",
} as const;
const NUMBER = { ...CELL, textAlign: "right", ...numerals } as const;

function Placed({ rows }: { rows: Record["placed"] }) {
  if (rows.length === 0) return null;
  const heads = rows[0]?.measures ?? [];
  return (
    <Box role="region" aria-label="What was placed" tabIndex={0} sx={{ overflowX: "auto" }}>
      <Heading>What was placed</Heading>
      <Box sx={{ fontSize: 14, color: paper.soft }}>
        As planned; only the seconds beside the planned ones were recorded.
      </Box>
      <table style={{ borderCollapse: "collapse", width: "100%", fontSize: 15 }}>
        <thead>
          <tr style={{ color: paper.soft }}>
            <th style={CELL}>No.</th>
            <th style={CELL}>Increment</th>
            <th style={CELL}>Product</th>
            <th style={CELL}>Lot</th>
            <th style={NUMBER}>g</th>
            {heads.map((m) => (
              <th key={m.id} style={NUMBER}>
                {m.title}
                {m.unit && `, ${m.unit}`}
              </th>
            ))}
            <th style={NUMBER}>planned s</th>
            <th style={NUMBER}>recorded s</th>
          </tr>
        </thead>
        <tbody>
          {rows.map((m) => (
            <tr key={m.order}>
              <td style={NUMBER}>{m.order}</td>
              <td style={CELL}>{m.name}</td>
              <td style={CELL}>{m.product}</td>
              <td style={CELL}>{m.lot ?? "not recorded"}</td>
              <td style={NUMBER}>{m.mass_g.toFixed(3)}</td>
              {m.measures.map((measure) => (
                <td key={measure.id} style={NUMBER}>
                  {figureOf(measure)}
                </td>
              ))}
              <td style={NUMBER}>{m.planned_s}</td>
              <td style={{ ...NUMBER, fontWeight: 700 }}>
                {m.recorded_s == null ? "none" : Math.round(m.recorded_s)}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </Box>
  );
}

/** The figures that were worked to: before cutting, as planned, and as they were measured. */
function Measured({ rows }: { rows: Record["measured"] }) {
  if (rows.length === 0) return null;
  return (
    <Box role="region" aria-label="Measured at the chair" tabIndex={0} sx={{ overflowX: "auto" }}>
      <Heading>Measured at the chair</Heading>
      <table style={{ borderCollapse: "collapse", width: "100%", fontSize: 15 }}>
        <thead>
          <tr style={{ color: paper.soft }}>
            <th style={CELL}>What</th>
            <th style={NUMBER}>before</th>
            <th style={NUMBER}>planned</th>
            <th style={NUMBER}>after</th>
            <th style={{ ...CELL, paddingLeft: 24 }} />
          </tr>
        </thead>
        <tbody>
          {rows.map((row) => (
            <tr key={row.step + row.title}>
              <td style={CELL}>
                {row.title}, {row.detail}
              </td>
              <td style={NUMBER}>{lengthOf(row, row.before)}</td>
              <td style={NUMBER}>{lengthOf(row, row.planned)}</td>
              <td style={{ ...NUMBER, fontWeight: 700 }}>{lengthOf(row, row.measured)}</td>
              <td style={{ ...CELL, paddingLeft: 24 }}>{row.text}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </Box>
  );
}

function lengthOf({ unit, is_height }: Record["measured"][number], value: number | null): string {
  if (value === null) return "not recorded";
  return `${is_height === false ? value.toFixed(1) : signedTenths(value)} ${unit}`;
}

function Times({ rows }: { rows: Record["steps"] }) {
  return (
    <>
      <Heading>Times</Heading>
      <Box sx={{ fontSize: 14, color: paper.soft }}>
        Of each step, seconds as planned, then as recorded.
      </Box>
      <Box sx={{ columns: { xs: 1, md: 2 }, columnGap: 4, fontSize: 15 }}>
        {rows.map((s) => (
          <Box
            key={s.id}
            data-step={s.id}
            sx={{
              display: "grid",
              gridTemplateColumns: "1fr 64px 72px",
              borderTop: `1px solid ${paper.rule}`,
              py: 0.25,
              breakInside: "avoid",
              ...numerals,
            }}
          >
            <span>
              {s.title}
              {s.visits > 1 ? ` (${s.visits} times)` : ""}
            </span>
            <span style={{ textAlign: "right", color: paper.soft }}>{s.planned_s} s</span>
            <span style={{ textAlign: "right", fontWeight: 700 }}>{Math.round(s.actual_s)} s</span>
          </Box>
        ))}
      </Box>
    </>
  );
}

/** What is counted has no decimals. */
function figureOf({ value, unit }: { value: number; unit: string }): string {
  return unit === "" && Number.isInteger(value) ? `${value}` : value.toFixed(2);
}
