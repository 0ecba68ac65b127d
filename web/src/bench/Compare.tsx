import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import { useQueries } from "@tanstack/react-query";
import { useState } from "react";
import type { Case, Plan } from "../api/client";
import { SheetDrawing } from "../drawing/SheetDrawing";
import { boxOf } from "../drawing/placing";
import type { Box as Millimetres } from "../drawing/geometry";
import { Choice } from "../shell/Choice";
import { useWidth } from "../shell/useWidth";
import { numerals, paper } from "../theme/tokens";
import { type Preview, previewOf, useLights, useMaterials, useRestoratives } from "./queries";
import { askAt } from "./told";
import { lastingOf } from "./OptionLine";
import { type Comparison, type Variant, variantsOf } from "./variants";

const MOST = 4;
const DRAWN_PX = 232;

interface Props {
  restorationId: number;
  data: Case;
  plan: Plan;
  onTake: (variant: Variant) => void;
  onClose: () => void;
}

/** The same cavity, planned in up to four ways beside each other, drawn to one scale. */
export function Compare({ restorationId, data, plan, onTake, onClose }: Props) {
  const { stages, comparisons = [] } = plan;
  const [asked, setAsked] = useState("");
  const [start] = useState(data);
  const lights = useLights().data ?? [];
  const materials = useMaterials().data ?? [];
  const weighed = plan.decisions.find((d) => d.options?.length);
  const chosen = weighed?.chosen ?? "";
  const others = (weighed?.options ?? []).filter(
    (o) => o.can_be_planned && !o.is_stopped && o.name !== chosen,
  );
  const told = useRestoratives(restorationId, start, others);
  const restoratives = [{ name: chosen, case_part: {} }, ...told];
  const ways = (of: Comparison) =>
    variantsOf(of, start, askAt(stages, of.path), lights, materials, restoratives);
  // What there is only one of is not offered.
  const offered = comparisons.filter((one) => ways(one).length > 1);
  const taken = offered.find(({ path }) => path === asked) ?? offered[0];
  const variants = taken ? ways(taken) : [];
  const shown = variants.slice(0, MOST);
  const answers = useQueries({ queries: shown.map((v) => previewOf(v.data)) });
  const plans = answers.map((answer) => answer.data ?? null);
  return (
    <Box
      component="section"
      aria-label="Compare"
      sx={{ px: 2, py: 1, minWidth: 0, overflow: "auto", gridColumn: { md: "span 2" } }}
    >
      <Box sx={{ display: "flex", gap: 2, alignItems: "center", flexWrap: "wrap", mb: 1 }}>
        <Box component="h1" sx={{ m: 0, fontSize: 20 }}>
          Compare
        </Box>
        {taken ? (
          <Choice
            label="Compare by"
            value={taken.path}
            options={offered.map(({ path, name }) => ({ value: path, name }))}
            onChange={setAsked}
          />
        ) : (
          <span>Nothing of this restorative to compare by.</span>
        )}
        {variants.length > MOST && <span>the first four of {variants.length}</span>}
        <Button sx={{ ml: "auto" }} variant="outlined" onClick={onClose}>
          Close
        </Button>
      </Box>
      <Box
        sx={{
          display: "grid",
          gap: 1.5,
          gridTemplateColumns: {
            xs: "minmax(0, 1fr)",
            md: `repeat(${shown.length}, minmax(0, 1fr))`,
          },
        }}
      >
        {shown.map((variant, i) => (
          <Column
            key={variant.name}
            variant={variant}
            preview={plans[i] ?? null}
            error={answers[i]?.error?.message}
            plans={plans}
            onTake={() => {
              onTake(variant);
              onClose();
            }}
          />
        ))}
      </Box>
    </Box>
  );
}

interface ColumnProps {
  variant: Variant;
  preview: Preview | null;
  error: string | undefined;
  plans: (Preview | null)[];
  onTake: () => void;
}

function Column({ variant, preview, error, plans, onTake }: ColumnProps) {
  const [ref, width] = useWidth<HTMLDivElement>();
  const refused = error ?? preview?.refusal?.requirement.text;
  const sheet = preview?.drawing?.sheets[0];
  const option = preview?.plan?.decisions
    .find((d) => d.options?.length)
    ?.options?.find((o) => o.name === variant.name);
  return (
    <Box
      data-variant={variant.name}
      sx={{ border: `1.5px solid ${variant.isOwn ? paper.verdigris : paper.rule}`, minWidth: 0 }}
    >
      <Box
        component="h2"
        sx={{
          m: 0,
          px: 1.5,
          py: 1,
          fontSize: 18,
          // Names of one line and of two: drawings side by side stand level.
          minHeight: 71,
          boxSizing: "border-box",
          borderBottom: `1px solid ${paper.rule}`,
        }}
      >
        {variant.name}
        {variant.isOwn && (
          <Box component="span" sx={{ fontWeight: 400, fontSize: 15, color: "text.secondary" }}>
            {" "}
            as planned
          </Box>
        )}
      </Box>
      <Box ref={ref} sx={{ height: DRAWN_PX }}>
        {sheet && preview?.drawing && (
          <SheetDrawing
            sheet={sheet}
            orientation={preview.drawing}
            width={width}
            height={DRAWN_PX}
            box={sharedBox(plans)}
            selected={null}
          />
        )}
      </Box>
      {refused && (
        <Box role="alert" sx={{ p: 1.5, color: "error.main" }}>
          {refused}
        </Box>
      )}
      <Figures preview={preview} plans={plans} />
      <Wanting preview={preview} />
      {option && <Box sx={{ px: 1.5, pt: 1, fontSize: 15 }}>{lastingOf(option)}</Box>}
      <Box sx={{ p: 1.5 }}>
        <Button
          fullWidth
          variant="outlined"
          disabled={variant.isOwn || !preview?.plan}
          onClick={onTake}
        >
          Use this plan
        </Button>
      </Box>
    </Box>
  );
}

/** What the cavity lacks for it, and how many steps and visits it takes. */
function Wanting({ preview }: { preview: Preview | null }) {
  if (!preview?.plan) return null;
  const { checks, steps, later = [] } = preview.plan;
  const after = later.map((visit) => visit.name.toLowerCase()).join("; ");
  const lacking = checks.filter((check) => check.verdict !== "pass");
  return (
    <Box sx={{ px: 1.5, pt: 1, fontSize: 15 }}>
      {steps.length} steps, {later.length + 1} visit{later.length > 0 && `s: ${after}`}
      <Box component="ul" aria-label="What it lacks" sx={{ m: 0, pl: 2.5 }}>
        {lacking.map((check) => (
          <li key={check.topic}>{check.title}</li>
        ))}
      </Box>
    </Box>
  );
}

/** The big numbers; those in which the columns differ stand in bold. */
function Figures({ preview, plans }: { preview: Preview | null; plans: (Preview | null)[] }) {
  return (
    <Box component="dl" sx={{ m: 0, px: 1.5 }}>
      {preview?.plan?.figures.map((figure) => {
        const values = plans.map((p) => p?.plan?.figures.find((f) => f.id === figure.id)?.value);
        const differs = values.some((v) => v !== undefined && v !== figure.value);
        return (
          <Box
            key={figure.id}
            data-figure-of={figure.id}
            sx={{
              display: "flex",
              justifyContent: "space-between",
              alignItems: "baseline",
              borderBottom: `1px solid ${paper.rule}`,
            }}
          >
            <dt>{figure.title}</dt>
            <Box
              component="dd"
              sx={{
                m: 0,
                fontSize: 24,
                fontWeight: differs ? 700 : 400,
                color: differs ? "text.primary" : "text.secondary",
                ...numerals,
              }}
            >
              {figure.value}{" "}
              <Box component="span" sx={{ fontSize: 15, fontWeight: 400 }}>
                {figure.unit}
              </Box>
            </Box>
          </Box>
        );
      })}
    </Box>
  );
}

/** The millimetres around all columns' sections, so that they share one scale. */
function sharedBox(plans: (Preview | null)[]): Millimetres | undefined {
  const boxes = plans.flatMap((p) => (p?.drawing?.sheets ?? []).slice(0, 1).map(boxOf));
  if (boxes.length === 0) return undefined;
  return {
    x0: Math.min(...boxes.map((b) => b.x0)),
    x1: Math.max(...boxes.map((b) => b.x1)),
    y0: Math.min(...boxes.map((b) => b.y0)),
    y1: Math.max(...boxes.map((b) => b.y1)),
  };
}
