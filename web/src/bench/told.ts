import type { Case, Plan, Schemas } from "../api/client";

export type Light = Schemas["Light"];
export type Ask = Schemas["Ask"];
export type PlanStage = Plan["stages"][number];

/** Where a case has its curing light, and its technique. */
export const LIGHT = "restoration.light";
export const TECHNIQUE = "restoration.technique";
/** The stage at which its color is decided. */
export const SHADE = "shade";

/** Returns the curing light of a case, if it needs one. */
export function lightOf({ restoration }: Case): Light | null {
  return ("light" in restoration && restoration.light) || null;
}

/** Returns the question at a path, of those that a plan asks. */
export function askAt(stages: readonly PlanStage[], path: string): Ask | undefined {
  return stages.flatMap((stage) => stage.asks ?? []).find((ask) => ask.path === path);
}

/** Returns the stage that asks for a path. */
export function stageAsking(stages: readonly PlanStage[], path: string): PlanStage | undefined {
  return stages.find((stage) => stage.asks?.some((ask) => ask.path === path));
}
