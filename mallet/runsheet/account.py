"""The account: what site, restorative and the order of steps come to, as a plan."""

from __future__ import annotations

import math
from collections.abc import Sequence

from mallet.restoratives.restorative import Built
from mallet.runsheet.schedule import missed_windows
from mallet.stages.asks import asks_of, comparisons_of, heading_of, measurements_of, stage_names, title_of
from mallet.stages.inputs import part_inputs
from mallet.stages.site import Site
from mallet.terms.increments import Cured, Increment
from mallet.terms.pieces import Reason, RuleUse
from mallet.terms.plan import (
    STAGES,
    Assumption,
    Check,
    Decision,
    Figure,
    Geometry,
    InputUse,
    LaterVisit,
    PartGeometry,
    Plan,
    PlanStage,
    StageId,
    StageResult,
    Step,
    Totals,
    Verdict,
)
from mallet.terms.reasons import warn


def account(
    *,
    engine: str,
    case_sha256: str,
    wanted_before: Sequence[Reason],
    built: Built,
    increments: Sequence[Increment],
    stages: Sequence[StageResult],
    steps: Sequence[Step],
    later: Sequence[LaterVisit],
    assumptions: Sequence[Assumption],
) -> Plan:
    """Return the plan; `stages` in the order in which it tells them, `steps` in order of doing."""
    site, sums, late = built.site, _totals(increments, steps), _windows(steps)
    tooth = site.cavity.tooth
    return Plan(
        engine=engine,
        rulebook=site.rules.version,
        case_sha256=case_sha256,
        may_start=not wanted_before,
        wanted_before=list(wanted_before),
        tooth={
            "code": tooth.iso,
            "number": tooth.number,
            "right_angle": tooth.right_angle,
            "name": tooth.name,
        },
        assumptions=[*assumptions, *(a for stage in stages for a in stage.assumptions)],
        geometry=_geometry(site, built, increments),
        decisions=[_headed(d, site) for stage in stages for d in stage.decisions],
        checks=[*(c for stage in stages for c in stage.checks), *late],
        cautions=[*(c for stage in stages for c in stage.cautions), warn("note", "advice", "Safety")],
        figures=[
            *built.figures(steps),
            _filling(site, built, increments),
            _chair(site, steps, sums.chair_minutes),
        ],
        increments=list(increments),
        totals=sums,
        wants=[w for stage in stages for w in stage.wants],
        steps=list(steps),
        later=list(later),
        stages=_stages(site, stages, late, is_wanted=bool(wanted_before)),
        measurements=measurements_of(site.case),
        comparisons=comparisons_of(site.case.restoration.material),
        brackets=built.brackets(steps),
        supplies=built.supplies(steps),
        color=built.color,
    )


def _headed(decision: Decision, site: Site) -> Decision:
    about = heading_of(site.case.restoration.material, decision.topic)
    return decision.model_copy(update={"about": about})


# What is judged apart from the stage that it is shown with.
SHOWN_WITH: dict[StageId, StageId] = {"lamp": "build", "warmth": "build"}
WORST: tuple[Verdict, ...] = ("pass", "caution", "fail")


def _stages(
    site: Site, stages: Sequence[StageResult], late: Sequence[Check], *, is_wanted: bool
) -> list[PlanStage]:
    """Return the stages as they are shown, in order, each with how it stands; steps that are late count for placing."""
    told, names = [], stage_names(site.case.restoration.material)
    for id in (one for one in STAGES if one in names):
        parts = [one for one in stages if one.stage and SHOWN_WITH.get(one.stage, one.stage) == id]
        if not parts:
            continue
        decisions = [decision for part in parts for decision in part.decisions]
        checks = [check for part in parts for check in part.checks] + (list(late) if id == "build" else [])
        warned = any(
            caution.level != "note" and not caution.always for part in parts for caution in part.cautions
        )
        found: list[Verdict] = [check.verdict for check in checks]
        if warned or (id == "assess" and is_wanted):
            found.append("caution")
        told.append(
            PlanStage(
                id=id,
                name=names[id],
                says=next(
                    (part.says for part in parts if part.says), decisions[0].chosen if decisions else ""
                ),
                verdict=max(found, key=WORST.index, default="pass"),
                decisions=[decision.topic for decision in decisions],
                checks=[check.topic for check in checks],
                asks=asks_of(site.case, id, site.rules),
            )
        )
    return told


def _totals(increments: Sequence[Increment], steps: Sequence[Step]) -> Totals:
    """Return the plan's sums; chair minutes are rounded up to the half minute."""
    end = max(step.end_s for step in steps)
    return Totals(
        increments=len(increments),
        cure_seconds=sum(_lit_s(one) for one in increments),
        light_seconds=sum(step.seconds for step in steps if step.light),
        chair_minutes=math.ceil(end / 30) / 2,
    )


def _lit_s(one: Increment) -> float:
    """Return how long an increment is lit."""
    return sum(exposure.seconds for exposure in one.cured.exposures) if isinstance(one.detail, Cured) else 0.0


def _windows(steps: Sequence[Step]) -> list[Check]:
    """Return a check for each window that the order of two people cannot keep."""
    titles = {step.id: step.title for step in steps}
    return [
        Check(
            topic=f"window.{step.id}",
            title=f"{step.title}: in time",
            measured=round(late, 1),
            needed=0.0,
            relation="at_most",
            unit="s too late",
            verdict="caution",
            remedy="Keep it covered until it is placed, or dispense it later.",
            where=f"after “{titles[earlier]}”",
        )
        for step, earlier, late in missed_windows(steps)
    ]


def _geometry(site: Site, built: Built, increments: Sequence[Increment]) -> Geometry:
    cavity = site.cavity
    sides = [box.side for box in cavity.boxes if box.side]
    return Geometry(
        volume_mm3=cavity.filling.volume(),
        mass_g=sum(one.mass_g for one in increments),
        parts=[
            PartGeometry(
                kind=part.kind, side=getattr(part, "side", None), nominal_volume_mm3=part.nominal_volume_mm3
            )
            for part in cavity.parts
        ],
        remaining_dentin_mm=cavity.remaining_dentin_mm if cavity.pulp and not cavity.chamber else None,
        bonded_area_mm2=built.bonded_area_mm2,
        ridge_height_mm={side: cavity.crown.ridge_mm(side) for side in sides},
        cusps=list(cavity.crown.cusps),
    )


def _filling(site: Site, built: Built, increments: Sequence[Increment]) -> Figure:
    crown = InputUse(
        path="tooth.code",
        title=title_of(site.case, "tooth.code"),
        value=f"{site.cavity.tooth.iso}, crown {site.cavity.crown.mesiodistal_mm:g} x {site.cavity.crown.buccolingual_mm:g} mm",
        unit="",
        provenance="handbook",
    )
    grams = sum(one.mass_g for one in increments)
    return Figure(
        id="filling",
        title="Restoration",
        value=round(site.cavity.filling.volume(), 1),
        unit="mm\u00b3",
        detail=f"{grams:.2f} g within the crown's outline",
        how=(
            "What lies between the tooth scanned before and after cutting."
            if site.cavity.scanned
            else "What the preparation cuts out of the handbook crown, closed to its original surface."
        ),
        rules=[],
        inputs=[*part_inputs(site.case), crown, *built.density_inputs],
    )


def _chair(site: Site, steps: Sequence[Step], minutes: float) -> Figure:
    seen: dict[str, RuleUse] = {}
    end = max(step.end_s for step in steps)
    for step in steps:
        if step.seconds_rule and step.actor != "assistant" and not step.light and step.seconds > 0:
            seen.setdefault(step.seconds_rule.rule, step.seconds_rule)
    seen.setdefault("chair.place_fixed_s", site.rules.use("chair.place_fixed_s"))
    return Figure(
        id="chair_minutes",
        title="Chair time",
        value=minutes,
        unit="min",
        detail=f"{len(steps)} steps for two, {end // 60:.0f} min {end % 60:.0f} s from the first step to the last",
        how="The steps in order for two pairs of hands, with the light's seconds; rounded up to 30 s.",
        rules=list(seen.values()),
        inputs=part_inputs(site.case),
    )
