"""Fissure sealant as a restorative: enamel etched, resin in the fissures, light to their floor."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace

from mallet.curing.around import surroundings
from mallet.curing.cured import Curing, Portion, as_pressed
from mallet.curing.exposures import with_mode
from mallet.curing.lamp import judge_lamp
from mallet.curing.portions import cure_portions, in_place_s
from mallet.light.aims import hold_of
from mallet.light.beam import fit_beam
from mallet.light.presses import button_of
from mallet.light.working_curve import rule_of_dose
from mallet.restoratives.lit import increments_of
from mallet.restoratives.restorative import AsTold, Built, Placed, Points, Schedule, Timed
from mallet.restoratives.sealant.decide import judge_fissure
from mallet.restoratives.sealant.steps import etching, finishing, placing
from mallet.restoratives.sealant.stock import Chosen, asked_of, choose_sealant, wants_of
from mallet.restoratives.sealant.wet import with_wet
from mallet.rulebook.parts import part_name
from mallet.stages.inputs import input_of, part_inputs
from mallet.stages.site import Site
from mallet.terms.case import Case
from mallet.terms.increments import Increment
from mallet.terms.plan import (
    Bracket,
    Check,
    Decision,
    Figure,
    InputUse,
    StageResult,
    Step,
)
from mallet.terms.reasons import refuse, say


@dataclass(frozen=True)
class SealantBuilt(Built):
    """Resin in fissures: one increment, its light, and what the hands do, on one tooth or on several."""

    site: Site
    stages: Sequence[StageResult]
    chosen: Chosen
    curing: Curing

    @property
    def technique(self) -> str:
        return "sealed"

    @property
    def placed(self) -> list[Placed]:
        return [Placed(one.portion.id, "enamel", one.portion.solid) for one in self.curing.cured]

    @property
    def bonded_area_mm2(self) -> float:
        return float(sum(one.contacts.tooth.area_mm2 for one in self.curing.cured))

    @property
    def density_inputs(self) -> list[InputUse]:
        at = self.chosen.at
        return [] if at is None else [input_of(self.site.case, f"stock[{at}].density_g_cm3", "g/cm3")]

    def finish(self) -> StageResult:
        building = next(stage for stage in self.stages if stage.stage == "build")
        steps = finishing(self.site.case, building.steps[-1].id, self.site.rules)
        return StageResult(says="probe, excess, occlusion, recall", steps=steps)

    def in_time(self, stages: Sequence[StageResult], schedule: Schedule) -> Timed:
        case = self.site.case
        every = [step for stage in stages for step in stage.steps]
        steps = with_wet(schedule(with_mode(every, case.light.output_mode)))
        cured = as_pressed(self.curing.cured, steps, button_of(case.light))
        return Timed(steps, stages, replace(self, curing=replace(self.curing, cured=cured)))

    def increments(self, points: Points) -> list[Increment]:
        (one,) = increments_of(self.curing, self.site.cavity.access, self.site.rules, points)
        return [one.model_copy(update={"reasons": [self.chosen.reason, *one.reasons]})]

    def figures(self, steps: Sequence[Step]) -> list[Figure]:
        case, rules = self.site.case, self.site.rules
        (one,) = self.curing.cured
        lit = [step for step in steps if step.light]
        teeth = 1 + len(asked_of(case).also)
        inputs = [
            *part_inputs(case),
            input_of(case, "restoration.light.tip_diameter_mm", "mm"),
        ]
        ratio = one.worst_dose_j_cm2 / one.need.dose_j_cm2
        return [
            Figure(
                id="light_seconds",
                title="Total curing time",
                value=sum(step.seconds for step in lit),
                unit="s",
                detail=f"{_many(len(one.lit.aims), 'aim', 'aims')} along the fissures, {_many(teeth, 'tooth', 'teeth')}",
                how=(
                    "The fissure's floor must receive what the sealant requires there; as many aims as cover its length"
                    " with the tip at hand. Every other tooth is lit alike."
                ),
                rules=rules.uses(rule_of_dose(one.mass), *_assumed_rules(self.chosen)),
                inputs=inputs,
                steps=[step.id for step in lit],
            ),
            Figure(
                id="weakest_point",
                title="At the fissure's floor",
                value=math.floor(ratio * 100) / 100,
                unit="\u00d7 required",
                detail=f"{one.worst_dose_j_cm2:.2f} J/cm\u00b2 received, {one.need.dose_j_cm2:.2f} required",
                how="Radiant exposure at the point of the fissure that receives least, over what the sealant requires.",
                rules=rules.uses(rule_of_dose(one.mass)),
                inputs=inputs,
                steps=[step.id for step in lit if step.increment],
            ),
        ]

    def brackets(self, steps: Sequence[Step]) -> list[Bracket]:
        lit = [step.id for step in steps if step.light]
        return [
            Bracket(start="bond.dry", end=lit[-1], text="keep dry: saliva means etching again", kind="dry")
        ]


@dataclass(frozen=True)
class SealantRestorative(AsTold):
    """Fissure sealant, as a case asks for it."""

    id: str = "sealant"

    def build(self, site: Site) -> SealantBuilt:
        """Return a sealant in a fissure; raise NotFeasible where there is caries below, where it cannot be kept dry, or
        where the light does not reach the fissure's floor."""
        case, rules, cavity = site.case, site.rules, site.cavity
        cautions = judge_fissure(case)
        others = [part.kind for part in case.preparation.parts if part.kind != "sealant_groove"]
        if others:
            raise refuse("sealant.parts", part=part_name(others[0]))
        chosen = choose_sealant(case, rules)
        resin = chosen.lit.mass
        beam = fit_beam(case.light.readings, case.light.tip_diameter_mm, rules=rules)
        lamp = judge_lamp(beam, case.light, rules)
        around = surroundings(
            cavity, site.bands, site.beside, beam, rules, hold_of(case.light, cavity.access)
        )
        hint = "Level with the fissures; nothing over the cusp slopes."
        portion = Portion("sealant", "sealant", cavity.filling, "enamel", None, hint)
        longest = in_place_s(rules)
        (one,) = cure_portions(case, cavity, [portion], [resin], around, beam, rules, [longest])
        if max(one.exposed.seconds) > longest or one.thickness_mm > resin.max_increment_mm + 5e-3:
            deep = {"depth_mm": one.thickness_mm, "most_mm": resin.max_increment_mm}
            raise refuse("sealant.too_deep", None, name=chosen.name, **deep)
        ready = [step.id for stage in site.stages if stage.stage == "prepare" for step in stage.steps[-1:]]
        etched = etching(case, ready or site.ready, rules)
        steps = placing(case, chosen, [one], [etched[-1].id], rules)
        stages = [
            StageResult(decisions=[_etch(case)], steps=etched).as_stage("bond"),
            lamp.as_stage("lamp"),
            StageResult(
                says=f"{chosen.name}, {one.seconds:g} s",
                decisions=[_teeth(case, chosen)],
                checks=[_reached(one.thickness_mm, resin.max_increment_mm)],
                cautions=cautions,
                wants=wants_of(case, chosen),
                steps=steps,
                assumptions=chosen.lit.assumptions("restoration.sealant"),
            ).as_stage("build"),
        ]
        return SealantBuilt(site, stages, chosen, Curing(beam, around, [one]))


def _assumed_rules(chosen: Chosen) -> list[str]:
    """Return the rules that act where the package says nothing of its depth or its light."""
    item = chosen.item
    said = {"sealant.depth_mm": item and item.depth_mm, "sealant.exposure_s": item and item.manufacturer}
    return [rule for rule, value in said.items() if value is None]


def _many(count: int, one: str, more: str) -> str:
    return f"{count} {one if count == 1 else more}"


def _reached(depth_mm: float, most_mm: float) -> Check:
    return Check(
        topic="increment.thickness",
        title="Depth of the sealant",
        measured=round(depth_mm, 2),
        needed=most_mm,
        relation="at_most",
        unit="mm",
        verdict="pass",
        remedy="Open the fissure less deep, or take a sealant that cures deeper.",
        where="at the fissure's deepest point",
    )


def _etch(case: Case) -> Decision:
    asked = asked_of(case)
    chosen = "enamel etched twice as long" if asked.fluorosed else "enamel etched"
    if asked.with_adhesive:
        chosen += ", adhesive under the resin"
    reasons = [say("sealant.enamel_only"), *([say("sealant.young")] if asked.fluorosed else [])]
    return Decision(topic="bond.etch", chosen=chosen, alternatives=[], reasons=reasons)


def _teeth(case: Case, chosen: Chosen) -> Decision:
    teeth = [case.tooth.code, *asked_of(case).also]
    told = chosen.name if len(teeth) == 1 else f"{chosen.name}: {', '.join(teeth)} in one order of work"
    reasons = [chosen.reason, *([say("sealant.several", teeth=", ".join(teeth))] if len(teeth) > 1 else [])]
    return Decision(topic="build.sealant", chosen=told, alternatives=[], reasons=reasons)


SEALANT = SealantRestorative()
