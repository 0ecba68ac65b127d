import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import { useQueries } from "@tanstack/react-query";
import { useState } from "react";
import type { Case, Schemas } from "../api/client";
import { SheetDrawing } from "../drawing/SheetDrawing";
import { useWidth } from "../shell/useWidth";
import { paper } from "../theme/tokens";
import type { CasePath } from "./paths";
import { type Preview, previewOf, useDesigns } from "./queries";
import type { Draft, DraftActions } from "./useDraft";

const DRAWN_PX = 240;

interface Props {
  draft: Draft;
  actions: DraftActions;
}

/** Asked what would hold the restoration: sets that are enough, each drawn; a tap takes one. */
export function WhatWouldHold({ draft, actions }: Props) {
  const [asked, setAsked] = useState<Case | null>(null);
  const isAsked = asked === draft.data;
  const designs = useDesigns(draft.data, isAsked);
  const found = (isAsked && designs.data) || [];
  const answers = useQueries({
    queries: found.map((design) => previewOf(withDesign(draft.data, design).data)),
  });
  return (
    <Box sx={{ gridColumn: "1 / -1" }}>
      {!isAsked && (
        <Button variant="outlined" onClick={() => setAsked(draft.data)} sx={{ minHeight: 44 }}>
          What would hold?
        </Button>
      )}
      {isAsked && designs.isPending && <Box role="status">Looking for sites that hold…</Box>}
      {isAsked && designs.data?.length === 0 && (
        <Box role="status">Nothing more is wanted, or no site keeps all distances.</Box>
      )}
      {found.map((design, at) => (
        <Proposal
          key={design.name}
          design={design}
          preview={answers[at]?.data ?? null}
          onTake={() => {
            const { data, estimated } = withDesign(draft.data, design);
            actions.set("preparation.parts", data.preparation.parts, estimated);
          }}
        />
      ))}
    </Box>
  );
}

interface ProposalProps {
  design: Schemas["Design"];
  preview: Preview | null;
  onTake: () => void;
}

function Proposal({ design, preview, onTake }: ProposalProps) {
  const [ref, width] = useWidth<HTMLDivElement>();
  const sheet = preview?.drawing?.sheets.find((one) => one.view === "above");
  return (
    <Box data-design={design.name} sx={{ border: `1.5px solid ${paper.rule}`, my: 0.75, p: 1 }}>
      <strong>{design.name}</strong>
      <Box sx={{ fontSize: 14, color: "text.secondary" }}>{design.says}</Box>
      <Box ref={ref} sx={{ height: DRAWN_PX }}>
        {sheet && preview?.drawing && (
          <SheetDrawing
            sheet={sheet}
            orientation={preview.drawing}
            width={width}
            height={DRAWN_PX}
            hasScaleBar={false}
            selected={null}
          />
        )}
      </Box>
      <Button fullWidth variant="outlined" onClick={onTake} sx={{ minHeight: 44 }}>
        Take it
      </Button>
    </Box>
  );
}

/** Returns a case with what a design cuts besides, and the paths of what nobody has measured yet. */
function withDesign(data: Case, design: Schemas["Design"]) {
  const { parts } = data.preparation;
  const added = design.parts as unknown as typeof parts;
  const estimated = added.flatMap((part, i) =>
    Object.keys(part)
      .filter((name) => name.endsWith("_mm"))
      .map((name) => `preparation.parts[${parts.length + i}].${name}` as CasePath),
  );
  const preparation = { ...data.preparation, parts: [...parts, ...added] };
  return { data: { ...data, preparation }, estimated };
}
