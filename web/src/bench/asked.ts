import type { Case } from "../api/client";
import { SCHOOLS } from "./variants";

interface Asked {
  path: string;
  name: string;
  /** Folded away until it is asked for. */
  isFolded?: boolean;
}

/** One thing that a stage asks for. Where nobody has told it, `taken` says what the plan goes by. */
export type StageInput = Asked &
  (
    | {
        kind: "choice";
        options: [value: string, name: string][];
        taken?: string;
        /** Nothing is taken for it: work may not start before it is told. */
        isWanted?: boolean;
      }
    | { kind: "yes"; taken: boolean | string }
    | { kind: "count"; most: number }
    | { kind: "text" }
    | { kind: "length"; hint: string }
    | { kind: "shelf"; kinds: string[] }
    | { kind: "cusps" }
    | { kind: "features" }
    | { kind: "anesthetics" }
  );

const SIDES = ["mesial", "distal"] as const;

const HELD_BY: StageInput = {
  kind: "features",
  path: "preparation.parts",
  name: "held besides by",
};

const CARIES_FOUND: StageInput = {
  kind: "yes",
  path: "findings.caries_found",
  name: "caries found",
  taken: "by cause",
};

const BY_STAGE: Record<string, StageInput[]> = {
  assess: [
    {
      kind: "choice",
      path: "findings.cause",
      name: "why treated",
      options: [
        ["decay", "decay"],
        ["decay_beside_filling", "beside a filling"],
        ["lost_sealant", "lost sealant"],
        ["fracture", "fracture"],
        ["wear", "wear, notch"],
        ["cracked_cusp", "cracked cusp"],
        ["core", "core"],
        ["wish", "wish"],
      ],
      taken: "decay",
    },
    {
      kind: "choice",
      path: "tooth.vitality",
      name: "tooth is",
      options: [
        ["vital", "vital"],
        ["non_vital", "not vital"],
        ["root_filled", "root-filled"],
      ],
    },
    {
      kind: "choice",
      path: "findings.pain",
      name: "it hurts",
      options: [
        ["none", "not at all"],
        ["brief_on_cold", "on cold, brief"],
        ["lingering", "and lingers"],
        ["spontaneous", "by itself"],
        ["on_biting", "on biting"],
      ],
      taken: "not at all",
    },
    {
      kind: "choice",
      path: "findings.cold",
      name: "cold test",
      options: [
        ["brief", "brief answer"],
        ["lingering", "lingers"],
        ["no_answer", "no answer"],
        ["not_tested", "not tested"],
      ],
      taken: "not tested",
    },
    {
      kind: "choice",
      path: "findings.percussion",
      name: "percussion",
      options: [
        ["normal", "normal"],
        ["tender", "tender"],
        ["not_tested", "not tested"],
      ],
      taken: "not tested",
    },
    {
      kind: "choice",
      path: "findings.pulp",
      name: "pulp, diagnosed",
      options: [
        ["sound", "sound"],
        ["reversible", "recovers"],
        ["in_doubt", "in doubt"],
        ["irreversible", "dying"],
      ],
      isWanted: true,
    },
    {
      kind: "yes",
      path: "findings.surely_this_tooth",
      name: "surely this tooth",
      taken: "not told",
    },
    {
      kind: "yes",
      path: "findings.bite_marked",
      name: "bite marked",
      taken: false,
      isFolded: true,
    },
    {
      kind: "length",
      path: "heights.cusps_mm",
      name: "cusps",
      hint: "above (+) the row",
      isFolded: true,
    },
    {
      kind: "length",
      path: "heights.groove_mm",
      name: "groove",
      hint: "below (\u2212) the ridges",
      isFolded: true,
    },
    ...SIDES.map((side): StageInput => ({
      kind: "length",
      path: `heights.${side}_ridge_mm`,
      name: `${side} ridge`,
      hint: "above (+) the neighbour",
      isFolded: true,
    })),
    { kind: "text", path: "findings.seen_beside", name: "seen on other teeth", isFolded: true },
  ],
  shade: [
    { kind: "yes", path: "findings.shows", name: "it shows", taken: "by tooth" },
    { kind: "yes", path: "shade.mock_up", name: "mock-up", taken: false },
    { kind: "text", path: "shade.value", name: "read wet" },
  ],
  choose: [
    {
      kind: "choice",
      path: "findings.load",
      name: "load",
      options: [
        ["low", "low"],
        ["ordinary", "ordinary"],
        ["heavy", "heavy"],
      ],
      taken: "ordinary",
    },
    {
      kind: "choice",
      path: "findings.decay_risk",
      name: "decay risk",
      options: [
        ["low", "low"],
        ["ordinary", "ordinary"],
        ["high", "high"],
      ],
      taken: "ordinary",
    },
    { kind: "yes", path: "findings.caved_in", name: "caved in", taken: true },
    { kind: "yes", path: "findings.cracked", name: "cracked", taken: false },
    { kind: "count", path: "findings.cusps_lost", name: "cusps lost", most: 5 },
    { kind: "text", path: "findings.strict_need", name: "strict need, why", isFolded: true },
    { kind: "text", path: "findings.need_decided_by", name: "need decided by", isFolded: true },
  ],
  isolate: [
    {
      kind: "choice",
      path: "findings.field",
      name: "field",
      options: [
        ["dam", "dam"],
        ["dry_without_dam", "dry, no dam"],
        ["wet", "stays wet"],
      ],
      taken: "dam",
    },
    {
      kind: "choice",
      path: "isolation.dam_on",
      name: "dam goes on",
      options: [
        ["before_cutting", "before cuts"],
        ["after_preparation", "once prepared"],
      ],
    },
    {
      kind: "choice",
      path: "school.dam_span",
      name: "dam reaches",
      options: [
        ["to_opposite_lateral", "to lateral"],
        ["two_in_front", "two in front"],
      ],
    },
    { kind: "yes", path: "isolation.old_amalgam", name: "old amalgam out", taken: false },
    { kind: "yes", path: "findings.below_gum", name: "margin below gum", taken: false },
    { kind: "anesthetics", path: "isolation.anesthetics", name: "anesthetic" },
    { kind: "length", path: "patient.weight_kg", name: "weight, kg", hint: "not told" },
    { kind: "text", path: "isolation.given", name: "how it was given", isFolded: true },
  ],
  prepare: [
    { kind: "cusps", path: "preparation.parts", name: "cusps to cover" },
    HELD_BY,
    CARIES_FOUND,
    {
      kind: "choice",
      path: "school.decay",
      name: "decay taken",
      options: [
        ["by_depth", "by depth"],
        ["to_hard", "until hard"],
      ],
    },
  ],
  protect: [
    {
      kind: "choice",
      path: "protection.what",
      name: "protect with",
      options: [
        ["by_depth", "by depth"],
        ["nothing", "nothing"],
        ["liner", "liner"],
        ["base", "base"],
      ],
    },
    { kind: "shelf", path: "protection.material", name: "material", kinds: ["base", "liner"] },
    { kind: "length", path: "protection.base_mm", name: "base thickness", hint: "by rulebook" },
    {
      kind: "choice",
      path: "protection.walls",
      name: "base covers",
      options: [
        ["nearest", "nearest wall"],
        ["floor", "floor"],
        ["floor_and_axial", "floor and axial"],
      ],
      taken: "by depth",
    },
    {
      kind: "choice",
      path: "protection.exposure",
      name: "pulp shows",
      options: [
        ["none", "no"],
        ["undecided", "undecided"],
        ["cap", "cap it"],
        ["pulpotomy", "pulpotomy"],
        ["root_treatment", "treat root"],
      ],
    },
    {
      kind: "choice",
      path: "school.silicate",
      name: "over fresh silicate",
      options: [
        ["by_enamel", "by enamel"],
        ["same_visit", "same visit"],
        ["two_visits", "two visits"],
      ],
    },
    {
      kind: "choice",
      path: "school.hydroxide",
      name: "calcium hydroxide on",
      options: [
        ["deepest_spot", "deepest spot"],
        ["whole_floor", "whole floor"],
      ],
      isFolded: true,
    },
    {
      kind: "count",
      path: "protection.placed_days_ago",
      name: "base placed, days ago",
      most: 365,
      isFolded: true,
    },
  ],
  bond: [
    {
      kind: "choice",
      path: "school.etch",
      name: "school",
      options: [
        ["selective_enamel", "selective etch"],
        ["etch_and_rinse", "etch-and-rinse"],
        ["self_etch", "self-etch"],
      ],
    },
    { kind: "shelf", path: "bonding.adhesive", name: "adhesive", kinds: ["adhesive"] },
    {
      kind: "choice",
      path: "school.chlorhexidine",
      name: "chlorhexidine",
      options: [
        ["none", "none"],
        ["before_etch", "before the acid"],
        ["after_etch", "after the acid"],
      ],
    },
  ],
  build: [
    {
      kind: "choice",
      path: "school.layering",
      name: "layering school",
      options: SCHOOLS.map(({ value, name }) => [value, name]),
    },
  ],
};

/** What preparing asks for of what is entered from a face. */
const FROM_FACE: Partial<Record<Case["preparation"]["parts"][number]["kind"], StageInput[]>> = {
  saucer: [margin("neck_margin", "roughen", "roughen_and_bevel", "and bevel enamel")],
  notch: [margin("neck_margin", "roughen", "roughen_and_bevel", "and bevel enamel")],
  pit: [],
  proximal_cavity: [CARIES_FOUND],
  incisal_fracture: [
    margin("incisal", "bevel", "bevel_and_notch", "and notch behind"),
    { kind: "count", path: "preparation.parts[0].bevel_points", name: "points of a star", most: 7 },
    HELD_BY,
  ],
  crown_stump: [],
  sealant_groove: [],
};

function margin(school: string, plain: string, more: string, name: string): StageInput {
  return {
    kind: "choice",
    path: `school.${school}`,
    name: "margin",
    options: [
      [plain, plain],
      [more, name],
    ],
  };
}

/** Where each gingival margin was seen to end; the handbook's cervical line tells it otherwise. */
function margins(data: Case): StageInput[] {
  return data.preparation.parts.flatMap((part, at): StageInput[] =>
    part.kind === "proximal_box"
      ? [
          {
            kind: "choice",
            path: `preparation.parts[${at}].margin_in`,
            name: `${part.side} margin in`,
            options: [
              ["enamel", "enamel"],
              ["dentin", "dentin"],
            ],
            taken: "by handbook",
          },
        ]
      : [],
  );
}

/** Returns what a stage asks for in a case, in the order in which it is asked. */
export function inputsOf(stage: string, data: Case): StageInput[] {
  const [first] = data.preparation.parts;
  const fromFace = first && FROM_FACE[first.kind];
  if (stage === "prepare") return [...(fromFace ?? BY_STAGE.prepare ?? []), ...margins(data)];
  if (stage !== "matrix") return BY_STAGE[stage] ?? [];
  const boxes = data.preparation.parts.flatMap((part) =>
    part.kind === "proximal_box" || part.kind === "tunnel" ? [part.side] : [],
  );
  const copper: StageInput = {
    kind: "choice",
    path: "school.copper",
    name: "copper band",
    options: [
      ["annealed", "annealed"],
      ["as_drawn", "as drawn"],
    ],
  };
  const round = data.preparation.parts.some((part) => part.kind === "shoulder") ? [copper] : [];
  const sides = SIDES.filter((side) => round.length > 0 || boxes.includes(side));
  const beside = sides.flatMap((side): StageInput[] => [
    {
      kind: "choice",
      path: `neighbours.${side}.contact`,
      name: `contact, ${side}`,
      options: [
        ["sound", "sound"],
        ["open", "open"],
        ["tight", "tight"],
        ["concave", "concave"],
        ["too_high", "too high"],
      ],
      taken: "sound",
    },
    { kind: "yes", path: `neighbours.${side}.rotated`, name: `${side} rotated`, taken: false },
    {
      kind: "length",
      path: `neighbours.${side}.ridge_offset_mm`,
      name: `its ridge, ${side}`,
      hint: "above (+) ours",
    },
    {
      kind: "length",
      path: `neighbours.${side}.gap_mm`,
      name: `gap at the neck, ${side}`,
      hint: "by handbook",
      isFolded: true,
    },
    {
      kind: "yes",
      path: `neighbours.${side}.missing`,
      name: `${side} missing`,
      taken: false,
      isFolded: true,
    },
  ]);
  return [...round, ...beside];
}

/** The stage whose inputs can lift a refusal or mend a value at a path. */
export function stageFor(codeOrPath: string): string {
  const first = codeOrPath.split(".")[0] ?? "";
  return { protection: "protect", bonding: "bond", isolation: "isolate" }[first] ?? first;
}
