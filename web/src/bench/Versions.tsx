import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import { useState } from "react";
import type { Case, Schemas } from "../api/client";
import { SheetDrawing } from "../drawing/SheetDrawing";
import { useClock } from "../session/time";
import { Trouble } from "../shell/Trouble";
import { useWidth } from "../shell/useWidth";
import { Waiting } from "../shell/Waiting";
import { numerals, paper } from "../theme/tokens";
import { useSavedPlan } from "./queries";

type Restoration = Schemas["RestorationOut"];
type Row = Schemas["PlanRow"];
const DRAWN_PX = 300;

interface Props {
  restoration: Restoration;
  onTake: (data: Case) => void;
  onClose: () => void;
}

/** Every plan that was saved: by whom, when, what changed; each can be seen as it was, and gone back
 * to. */
export function Versions({ restoration, onTake, onClose }: Props) {
  const plans = [...restoration.plans].reverse();
  const [number, setNumber] = useState(plans[0]?.number ?? null);
  return (
    <Box
      component="section"
      aria-label="Saved plans"
      sx={{ px: 2, py: 1, minWidth: 0, overflow: "auto", gridColumn: { md: "span 2" } }}
    >
      <Box sx={{ display: "flex", alignItems: "center", mb: 1 }}>
        <Box component="h1" sx={{ m: 0, fontSize: 20 }}>
          Saved plans
        </Box>
        <Button sx={{ ml: "auto" }} variant="outlined" onClick={onClose}>
          Close
        </Button>
      </Box>
      {plans.length === 0 && <p>No saved plans. Saved plans are kept permanently.</p>}
      <Box sx={{ display: "grid", gap: 2, gridTemplateColumns: { md: "minmax(0, 1fr) 380px" } }}>
        {number !== null && (
          <AsItWas
            restoration={restoration}
            number={number}
            onTake={(data) => {
              onTake(data);
              onClose();
            }}
          />
        )}
        <Box component="ol" sx={{ listStyle: "none", m: 0, p: 0 }}>
          {plans.map((row) => (
            <Version
              key={row.number}
              row={row}
              isOn={row.number === number}
              onShow={() => setNumber(row.number)}
            />
          ))}
        </Box>
      </Box>
    </Box>
  );
}

interface VersionProps {
  row: Row;
  isOn: boolean;
  onShow: () => void;
}

function Version({ row, isOn, onShow }: VersionProps) {
  const clock = useClock();
  return (
    <Box
      component="li"
      sx={{
        borderLeft: `5px solid ${isOn ? paper.verdigris : "transparent"}`,
        borderBottom: `1px solid ${paper.rule}`,
        bgcolor: isOn ? paper.verdigrisPale : "transparent",
        p: 1.25,
        ...numerals,
      }}
    >
      <Box sx={{ display: "flex", justifyContent: "space-between", alignItems: "center" }}>
        <strong>Plan {row.number}</strong>
        <Button size="small" variant="outlined" aria-pressed={isOn} onClick={onShow}>
          Show plan {row.number}
        </Button>
      </Box>
      <Box sx={{ fontSize: 15, color: "text.secondary" }}>
        {clock.moment(row.saved_at)}, {row.saved_by} · engine {row.engine}
      </Box>
      <Box component="ul" sx={{ m: 0, pl: 2.25, fontSize: 15 }}>
        {row.changes.map((change) => (
          <li key={change.path}>
            {change.title}: {said(change.before)} → <b>{said(change.after)}</b>
          </li>
        ))}
      </Box>
    </Box>
  );
}

function said(value: unknown): string {
  return value === null || value === undefined ? "none" : String(value).replaceAll("_", " ");
}

interface AsItWasProps {
  restoration: Restoration;
  number: number;
  onTake: (data: Case) => void;
}

/** A saved plan's drawing and numbers, as they were made then. */
function AsItWas({ restoration, number, onTake }: AsItWasProps) {
  const [ref, width] = useWidth<HTMLDivElement>();
  const saved = useSavedPlan(restoration.id, number);
  if (saved.isError) return <Trouble error={saved.error} again={() => void saved.refetch()} />;
  if (!saved.data) return <Waiting />;
  const { plan, drawing } = saved.data;
  const [sheet] = drawing.sheets;
  return (
    <Box data-as-it-was={number} sx={{ border: `1.5px solid ${paper.ink}`, minWidth: 0 }}>
      <Box ref={ref} sx={{ height: DRAWN_PX }}>
        {sheet && (
          <SheetDrawing
            sheet={sheet}
            orientation={drawing}
            width={width}
            height={DRAWN_PX}
            selected={null}
          />
        )}
      </Box>
      <Box component="dl" sx={{ m: 0, px: 1.5, ...numerals }}>
        {plan.figures.map((figure) => (
          <Box
            key={figure.id}
            sx={{
              display: "flex",
              justifyContent: "space-between",
              borderBottom: `1px solid ${paper.rule}`,
            }}
          >
            <dt>{figure.title}</dt>
            <Box component="dd" sx={{ m: 0, fontWeight: 700, fontSize: 20 }}>
              {figure.value} {figure.unit}
            </Box>
          </Box>
        ))}
      </Box>
      <Box sx={{ p: 1.5 }}>
        <Button fullWidth variant="outlined" onClick={() => onTake(saved.data.case)}>
          Go back to plan {number}
        </Button>
      </Box>
    </Box>
  );
}
