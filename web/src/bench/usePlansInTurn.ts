import { useEffect, useRef } from "react";
import type { Plan } from "../api/client";
import type { Glimpses } from "../drawing/glimpses";
import { useLater, useSettled } from "./useLater";
import type { Previewed } from "./usePreview";

/** The plan as each part of the page takes it up. */
interface PlansInTurn {
  /** What the key figures and checks are of. */
  told: Plan | null | undefined;
  /** What time line and order of work are of, once a drag rests. */
  later: Plan | null | undefined;
}

/** Returns the plan as it reaches the page in turn: the drawing goes first, its view from above a frame later, then the
 * reckoning, and time line and order of work once a drag rests. */
export function usePlansInTurn(preview: Previewed, glimpses: Glimpses): PlansInTurn {
  const made = preview.good;
  const third = useLater(useLater(made));
  const settled = useSettled(third, preview.isWaiting);
  const told = third?.plan ?? made?.plan;
  // What a drag showed gives way to the plan of the value that it ended at.
  const before = useRef(made);
  useEffect(() => {
    if (preview.isWaiting) return;
    glimpses.clear(before.current === made);
    before.current = made;
  }, [glimpses, made, preview.isWaiting]);
  return { told, later: settled?.plan ?? told };
}
