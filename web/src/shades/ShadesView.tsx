import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import { Link } from "react-router";
import type { Schemas } from "../api/client";
import { Why } from "../bench/Why";
import { cssOf } from "../bench/lab";
import { useSession } from "../session/queries";
import { answers } from "../session/roles";
import { Page } from "../shell/Page";
import { Refused } from "../shell/Refused";
import { Trouble } from "../shell/Trouble";
import { Waiting } from "../shell/Waiting";
import { useClock } from "../session/time";
import { numerals, paper } from "../theme/tokens";
import { MaskingChart } from "./MaskingChart";
import { limitOf } from "./limits";
import { type Shade, usePutRight, useShades } from "./queries";

type Color = Schemas["CompositeColor"];

const KNOWN: Record<Color["known_by"], string> = {
  spectral: "spectra",
  lab: "CIELAB",
  family: "opacity alone",
};
const COLUMNS = {
  xs: "1fr 1fr",
  md: "64px minmax(0, 1.3fr) repeat(2, 110px) 190px minmax(0, 1fr)",
};

/** How the composites in stock look: which hide the dark of the mouth, from which thickness, and how far their lots are apart. */
export default function ShadesView() {
  const shades = useShades();
  if (shades.isPending) return <Waiting />;
  if (shades.isError) return <Trouble error={shades.error} again={() => void shades.refetch()} />;
  const known = shades.data.filter((one) => one.color);
  // Of a tint no color is predicted.
  const unknown = shades.data.filter((one) => !one.color && one.consistency !== "stain");
  return (
    <Page
      title="Shades"
      beside="from which thickness the composites in stock hide the dark of the mouth"
    >
      <Box role="table" aria-label="Composites by their looks">
        <Box
          role="row"
          sx={{
            display: { xs: "none", md: "grid" },
            gridTemplateColumns: COLUMNS,
            columnGap: 2,
            alignItems: "end",
            fontSize: 14,
            color: "text.secondary",
            pb: 0.5,
          }}
        >
          {[
            "in bulk",
            "composite",
            "accepted from",
            "not seen from",
            "L* / a* / b*",
            "lots, dE00 off the first",
          ].map((name) => (
            <span role="columnheader" key={name}>
              {name}
            </span>
          ))}
        </Box>
        {known.map((one) => one.color && <Row key={one.item_id} shade={one} color={one.color} />)}
      </Box>
      <Box sx={{ color: "text.secondary", fontSize: 14 }}>
        Patches are approximate: numbers and words carry the verdict.
      </Box>
      {known.length > 0 && <MaskingChart shades={known} />}
      {unknown.length > 0 && (
        <Box component="section" aria-label="Not measured" sx={{ mt: 2 }}>
          <Box component="h2" sx={{ m: 0, fontSize: 18 }}>
            Not measured
          </Box>
          No plan weighs the color of{" "}
          {unknown.map((one, i) => (
            <span key={one.item_id}>
              {i > 0 && ", "}
              <Link to={`/stock/${one.item_id}`} style={{ color: "inherit" }}>
                {one.name}
              </Link>
            </span>
          ))}
          : measure a specimen, or tell its opacity.
        </Box>
      )}
    </Page>
  );
}

function Row({ shade, color }: { shade: Shade; color: Color }) {
  return (
    <Box
      role="row"
      aria-label={shade.name}
      sx={{
        display: "grid",
        gridTemplateColumns: COLUMNS,
        columnGap: 2,
        alignItems: "center",
        borderTop: `1px solid ${paper.rule}`,
        py: 1,
        ...numerals,
      }}
    >
      <Box
        role="cell"
        sx={{ height: 48, border: `1px solid ${paper.soft}`, bgcolor: cssOf(color.deep) }}
      />
      <Box role="cell">
        <Box
          component={Link}
          to={`/stock/${shade.item_id}`}
          sx={{ color: "inherit", fontWeight: 700, fontSize: 17 }}
        >
          {shade.name}
        </Box>
        <Box sx={{ color: "text.secondary", fontSize: 14 }}>
          {shade.role}, {shade.consistency}
          {shade.in_stock ? "" : "; none left"}
        </Box>
        {shade.reviewed && <Reviewed shade={shade} reviewed={shade.reviewed} />}
      </Box>
      <Depth mm={color.accepted_from_mm} name="accepted from" />
      <Depth mm={color.unseen_from_mm} name="not seen from" />
      <Box role="cell" sx={{ fontSize: 15 }}>
        {color.deep.join(" / ")}
        <Box sx={{ color: "text.secondary", fontSize: 14 }}>
          by {KNOWN[color.known_by]}, ±{color.unsure_de00}
          <Why title={shade.name} rules={color.rules} />
        </Box>
      </Box>
      <Lots shade={shade} accepted={limitOf(color, "acceptable")} />
    </Box>
  );
}

function Depth({ mm, name }: { mm: number | null; name: string }) {
  return (
    <Box role="cell">
      <Box sx={{ display: { md: "none" }, fontSize: 14, color: "text.secondary" }}>{name}</Box>
      <Box component="strong" sx={{ fontSize: 26 }}>
        {mm === null ? "never" : mm.toFixed(1)}
      </Box>
      {mm !== null && " mm"}
    </Box>
  );
}

/** What reviews teach of a composite, and putting it right by them. */
function Reviewed({ shade, reviewed }: { shade: Shade; reviewed: NonNullable<Shade["reviewed"]> }) {
  const mayAnswer = answers(useSession().data?.user?.role);
  const right = usePutRight(shade.item_id);
  const [, few] = reviewed.rules;
  return (
    <Box role="group" aria-label={`Reviews of ${shade.name}`} sx={{ fontSize: 14, mt: 0.5 }}>
      {reviewed.reviews === 1 ? "1 review" : `${reviewed.reviews} reviews`}:{" "}
      <strong>{reviewed.off_de00.toFixed(1)}</strong> dE00 off what was predicted
      {reviewed.says && `, ${reviewed.says}`}
      <Why title={`Reviews of ${shade.name}`} rules={reviewed.rules} />
      {reviewed.is_enough && mayAnswer && (
        <Button
          variant="outlined"
          disabled={right.isPending}
          onClick={() => right.mutate()}
          sx={{ display: "block", mt: 0.5, minHeight: 44 }}
        >
          Put right by reviews
        </Button>
      )}
      {!reviewed.is_enough && few && reviewed.reviews < few.value && (
        <Box sx={{ color: "text.secondary" }}>From {few.value} on it may be put right.</Box>
      )}
      {!reviewed.agrees && few && reviewed.reviews >= few.value && (
        <Box sx={{ color: "text.secondary" }}>They do not agree: nothing is put right by them.</Box>
      )}
      <Refused error={right.error} />
    </Box>
  );
}

/** The lots that were measured, and how far each is off the first. */
function Lots({ shade, accepted }: { shade: Shade; accepted: number }) {
  const clock = useClock();
  const measured = shade.readings.map((one) => one.lot);
  const fresh = shade.lots.filter((lot) => !measured.includes(lot));
  return (
    <Box role="cell" sx={{ fontSize: 14, gridColumn: { xs: "1 / -1", md: "auto" } }}>
      {shade.readings.map(({ lot, noted_at, reviews, off_first_de00 }) => (
        <Box key={noted_at} title={`measured on ${clock.shortDay(noted_at)}`}>
          {reviews > 0 ? `put right by ${reviews} reviews` : lot || "no lot"}
          {off_first_de00 !== null && (
            <Box
              component="strong"
              sx={{ color: reviews === 0 && off_first_de00 > accepted ? paper.brick : "inherit" }}
            >
              {" "}
              {off_first_de00.toFixed(1)}
              {reviews === 0 && off_first_de00 > accepted && ", looks other"}
            </Box>
          )}
        </Box>
      ))}
      {fresh.length > 0 && (
        <Box sx={{ color: "text.secondary" }}>not measured: {fresh.join(", ")}</Box>
      )}
    </Box>
  );
}
