import Box from "@mui/material/Box";
import type { ReactNode } from "react";
import { Link } from "react-router";
import type { Drawing, Plan, Schemas } from "../api/client";
import { useIsGlimpsing } from "../drawing/glimpses";
import { Verdict } from "../shell/Verdict";
import { apart, paper } from "../theme/tokens";
import { HoldTheTip } from "./HoldTheTip";
import { LampFlags } from "./LampPicker";
import { Legend } from "./Legend";
import { MeasureFirst } from "./MeasureFirst";
import { Checks, Reckoning } from "./Reckoning";
import { ScannedPair } from "./ScannedPair";
import { Shapes } from "./Shapes";
import { StageNotes } from "./StageNotes";
import { isOfPractice } from "./TitleLine";
import { Wanted } from "./Wanted";
import { LIGHT } from "./told";
import type { AtHand } from "./useAtHand";
import type { Draft, DraftActions } from "./useDraft";
import type { Previewed } from "./usePreview";

interface Props {
  restoration: Schemas["RestorationOut"];
  plan: Plan;
  drawing: Drawing;
  /** The plan as the key figures take it up. */
  told: Plan;
  preview: Previewed;
  draft: Draft;
  actions: DraftActions;
  hand: AtHand;
  /** Whether what is wanted before work may start is told here. */
  hasWanted: boolean;
}

/** What stands beside the drawing: the key figures, always in sight, the stage that is open, and what else there is to a
 * plan. */
export function Side(props: Props) {
  const { restoration, plan, drawing, told, preview, draft, actions, hand } = props;
  const isSettled = preview.isCurrent && !preview.isWaiting;
  const { data } = draft;
  const figures = (
    <Reckoning
      plan={told}
      step={hand.pointed}
      onPoint={hand.setFigure}
      isShort={hand.stage !== null}
    />
  );
  return (
    <Frame isBusy={preview.isWaiting || told !== plan}>
      {props.hasWanted && <Wanted plan={plan} onTell={() => hand.setStage("assess")} />}
      {hand.stage && (
        <>
          <Box
            sx={{
              position: { md: "sticky" },
              top: 0,
              zIndex: 1,
              bgcolor: paper.sheet,
              pb: 1,
            }}
          >
            {figures}
          </Box>
          <StageNotes
            restorationId={restoration.id}
            plan={plan}
            stage={hand.stage}
            draft={draft}
            actions={actions}
            problems={preview.problems}
            increment={hand.increment}
            onIncrement={hand.toggleIncrement}
            onClose={() => hand.setStage(null)}
          />
        </>
      )}
      <Box sx={{ opacity: preview.isCurrent || preview.isWaiting ? 1 : 0.5, "& > *": apart }}>
        {!hand.stage && figures}
        <MeasureFirst data={data} isSettled={isSettled} onMeasured={actions.markMeasured} />
        <HoldTheTip data={data} isSettled={isSettled} onHold={(held) => actions.set(LIGHT, held)} />
        <Legend sheets={drawing.sheets} />
        <Shapes data={data} isSettled={isSettled} />
        <ScannedPair
          data={data}
          problems={preview.problems}
          onScan={(scan) => actions.set("preparation.scan", scan)}
        />
        <HouseChanged missing={restoration.missing} />
        <LampFlags data={data} onPick={(light) => actions.set(LIGHT, light)} />
        <Checks plan={told} />
      </Box>
    </Frame>
  );
}

/** Busy while it is not yet of what is typed or dragged. */
function Frame({ isBusy, children }: { isBusy: boolean; children: ReactNode }) {
  const isGlimpsing = useIsGlimpsing();
  return (
    <Box
      component="aside"
      aria-label="Summary"
      aria-busy={isBusy || isGlimpsing}
      sx={{
        borderLeft: { md: `1px solid ${paper.rule}` },
        bgcolor: paper.sheet,
        px: 2,
        pt: 0.5,
        pb: 1,
        overflow: "auto",
        contain: "content",
        willChange: "transform",
      }}
    >
      {children}
    </Box>
  );
}

/** What the practice has set otherwise since the plan was saved. */
function HouseChanged({ missing }: { missing: Schemas["MissingOut"][] }) {
  return (
    <Box component="ul" sx={{ listStyle: "none", m: 0, p: 0 }}>
      {missing.filter(isOfPractice).map((m) => (
        <Verdict key={m.code} verdict="caution" text={`${m.text}.`}>
          <Link to="/rules" style={{ color: "inherit" }}>
            rules
          </Link>
        </Verdict>
      ))}
    </Box>
  );
}
