"""Resin-modified glass ionomer: in layers as deep as the light reaches, each cured before the next."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace

from manifold3d import Manifold

from mallet.cavity.measures import longest_vertical_mm
from mallet.cavity.solids import below
from mallet.curing.around import Surroundings, surroundings
from mallet.curing.cured import Cured, Curing, Portion, as_pressed
from mallet.curing.lamp import judge_lamp
from mallet.curing.portions import cure_portions, in_place_s
from mallet.light.aims import hold_of
from mallet.light.beam import Beam, fit_beam
from mallet.light.presses import button_of
from mallet.light.working_curve import rule_of_dose
from mallet.restoratives.glass_ionomer.capsules import capsules_figure, package_inputs
from mallet.restoratives.glass_ionomer.finish import finish
from mallet.restoratives.glass_ionomer.stock import asked_of, wants_of
from mallet.restoratives.glass_ionomer.wet import with_wet
from mallet.restoratives.lit import in_order, increments_of
from mallet.restoratives.restorative import Built, Placed, Points, Schedule, Timed
from mallet.rulebook import Rulebook
from mallet.stages.inputs import input_of, part_inputs
from mallet.stages.ionomer import Chosen, as_lit, capsule_rules, held_mm3, lit_rules
from mallet.stages.ionomer_layers import capsules_of, placing_layers, step_of, supplies_of_layers
from mallet.stages.site import Site
from mallet.terms.errors import InputError
from mallet.terms.increments import Increment
from mallet.terms.plan import (
    Bracket,
    Caution,
    Check,
    Decision,
    Figure,
    InputUse,
    StageResult,
    Step,
    Supply,
)
from mallet.terms.reasons import refuse, say
from mallet.terms.restoration import Composite
from mallet.terms.stock import Coat

SLACK_MM = 5e-3
LEAST_MM3 = 0.05


@dataclass(frozen=True)
class LitIonomerBuilt(Built):
    """Resin-modified glass ionomer in a cavity: its layers with their light, and from which capsule each comes."""

    site: Site
    stages: Sequence[StageResult]
    chosen: Chosen
    capsules: dict[int, list[int]]
    curing: Curing

    @property
    def technique(self) -> str:
        return "in_layers"

    @property
    def placed(self) -> list[Placed]:
        return [Placed(one.portion.id, "ionomer", one.portion.solid) for one in self.curing.cured]

    @property
    def bonded_area_mm2(self) -> float:
        return float(sum(one.contacts.tooth.area_mm2 for one in self.curing.cured))

    @property
    def density_inputs(self) -> list[InputUse]:
        return []

    def finish(self) -> StageResult:
        building = next(stage for stage in self.stages if stage.stage == "build")
        return finish(self.site, building.steps[-1].id)

    def in_time(self, stages: Sequence[StageResult], schedule: Schedule) -> Timed:
        ordered, warmth = in_order(self.site, self.curing, stages, schedule)
        steps = with_wet(ordered)
        cured = as_pressed(self.curing.cured, steps, button_of(self.site.case.light))
        built = replace(self, curing=replace(self.curing, cured=cured))
        return Timed(steps, [*stages, *warmth], built)

    def increments(self, points: Points) -> list[Increment]:
        first, *others = increments_of(self.curing, self.site.cavity.access, self.site.rules, points)
        return [first.model_copy(update={"reasons": [*self.chosen.reasons, *first.reasons]}), *others]

    def figures(self, steps: Sequence[Step]) -> list[Figure]:
        case, rules, worst = self.site.case, self.site.rules, self.curing.weakest
        # The coat's light counts in the whole, not among the layers'.
        every = [step for step in steps if step.light]
        lit = [step for step in every if step.increment]
        coat_s = sum(step.seconds for step in every if not step.increment)
        layers = f"{_many(len(self.curing.cured))}, none over {worst.mass.max_increment_mm:g} mm"
        inputs = [
            *part_inputs(case),
            input_of(case, "restoration.light.tip_diameter_mm", "mm"),
            *package_inputs(self.site, self.chosen),
        ]
        cited = rules.uses(rule_of_dose(worst.mass), *lit_rules(self.chosen))
        placing = [step.id for step in steps if step.increment and not step.light]
        return [
            Figure(
                id="light_seconds",
                title="Total curing time",
                value=sum(step.seconds for step in every),
                unit="s",
                detail=f"{layers}; coat {coat_s:g} s" if coat_s else layers,
                how="Every layer must receive what the glass ionomer requires at its deepest point, before the next.",
                rules=cited,
                inputs=inputs,
                steps=[step.id for step in every],
            ),
            Figure(
                id="weakest_point",
                title="Lowest radiant exposure",
                value=math.floor(100 * worst.worst_dose_j_cm2 / worst.need.dose_j_cm2) / 100,
                unit="\u00d7 required",
                detail=f"{worst.portion.name}: {worst.worst_dose_j_cm2:.2f} J/cm\u00b2 received, {worst.need.dose_j_cm2:.2f} required",
                how="Radiant exposure at the point that receives least, over what the glass ionomer requires.",
                rules=rules.uses(rule_of_dose(worst.mass)),
                inputs=inputs,
                steps=[step.id for step in lit],
            ),
            capsules_figure(self.site, self.chosen, len(self.capsules), placing),
        ]  # fmt: skip

    def supplies(self, steps: Sequence[Step]) -> list[Supply]:
        return supplies_of_layers(self.curing.cured, self.capsules, self.chosen, steps)

    def brackets(self, steps: Sequence[Step]) -> list[Bracket]:
        lit = [step.id for step in steps if step.light and step.increment]
        found = [
            Bracket(start="bond.dry", end=lit[-1], text="keep dry up to the last layer's light", kind="dry")
        ]
        for orders in self.capsules.values():
            start, end = (
                step_of(self.curing.cured, *one) for one in ((orders[0], "mix"), (orders[-1], "place"))
            )
            found.append(Bracket(start=start, end=end, text="working time", kind="working"))
        return found


def build_lit(
    site: Site, chosen: Chosen, bond: StageResult, coat: Coat | None, cautions: Sequence[Caution]
) -> LitIonomerBuilt:
    """Return resin-modified glass ionomer in a site, conditioned before, coated in the end.

    Raises InputError where no curing light is told, and NotFeasible where the light does not reach even the thinnest layer.
    """
    case, rules, cavity = site.case, site.rules, site.cavity
    if asked_of(case).light is None:
        allowed = f"a curing light: {chosen.item.name} is light-cured"
        raise InputError.at("restoration.light", "nothing", allowed)
    made = as_lit(chosen, rules)
    beam = fit_beam(case.light.readings, case.light.tip_diameter_mm, rules=rules)
    around = surroundings(cavity, site.bands, site.beside, beam, rules, hold_of(case.light, cavity.access))
    cured = _cured(site, made.mass, held_mm3(chosen, rules), around, beam)
    capsules = capsules_of(cured, chosen, rules)
    between = site.life.between if site.life else []
    steps = placing_layers(cured, capsules, chosen, "bond.dry", between, rules)
    build = StageResult(
        says=f"{_many(len(cured))}, {sum(one.seconds for one in cured):g} s",
        decisions=[_placement(chosen, cured, made.mass, rules)],
        checks=_checks(cured, chosen, rules),
        cautions=list(cautions),
        wants=wants_of(case, chosen, len(capsules), coat),
        steps=steps,
        assumptions=[*chosen.assumed, *made.assumptions(chosen.path)],
    )
    lamp = judge_lamp(beam, case.light, rules).as_stage("lamp")
    stages = [bond, lamp, build.as_stage("build")]
    return LitIonomerBuilt(site, stages, chosen, capsules, Curing(beam, around, cured))


def _cured(site: Site, resin: Composite, held_mm3: float, around: Surroundings, beam: Beam) -> list[Cured]:
    """Return the layers with their light: level, of equal height, each from one capsule, as few as cure in one exposure from
    a place; in several, where none is thick enough to be placed otherwise."""
    rules, filling = site.rules, site.cavity.filling
    low, high = filling.bounding_box()[2], filling.bounding_box()[5]
    most = max(math.floor((high - low) / rules.value("ionomer.least_layer_mm")), 1)
    for longest in (rules.value("light.longest_exposure_s"), in_place_s(rules)):
        for count in range(1, most + 1):
            layers = _layers(filling, low, high, count)
            is_thick = (
                max(longest_vertical_mm(one.solid) for one in layers) > resin.max_increment_mm + SLACK_MM
            )
            if is_thick or max(one.solid.volume() for one in layers) > held_mm3:
                continue
            cured = _all_cured(site, layers, resin, around, beam, longest)
            if cured:
                return cured
    raise refuse("ionomer.too_dark", None, name=resin.name, longest_s=in_place_s(rules))


def _all_cured(
    site: Site,
    layers: Sequence[Portion],
    resin: Composite,
    around: Surroundings,
    beam: Beam,
    longest_s: float,
) -> list[Cured] | None:
    """Return layers with their light; None at the first that would take longer, or be too thick along it."""
    found = []
    masses = [resin] * len(layers)
    for one in cure_portions(
        site.case, site.cavity, layers, masses, around, beam, site.rules, [longest_s] * len(layers)
    ):
        if max(one.exposed.seconds) > longest_s or one.thickness_mm > resin.max_increment_mm + SLACK_MM:
            return None
        found.append(one)
    return found


def _layers(filling: Manifold, low: float, high: float, count: int) -> list[Portion]:
    """Return level layers of equal height from the deepest point out."""
    solids, rest = [], filling
    for i in range(1, count):
        layer, rest = rest.split(below(low + (high - low) * i / count).solid)
        solids.append(layer)
    solids = [one for one in [*solids, rest] if one.volume() > LEAST_MM3]
    several, last = len(solids) > 1, len(solids)
    return [
        Portion(
            id=f"ionomer.{i}",
            name=f"glass ionomer, layer {i}" if several else "glass ionomer",
            solid=solid,
            role="dentin",
            side=None,
            sculpt="To contour; press the strip or form home."
            if i == last
            else "Against floor and walls, no void.",
        )
        for i, solid in enumerate(solids, 1)
    ]


def _many(layers: int) -> str:
    return f"{layers} layer{'s' if layers > 1 else ''}"


def _placement(chosen: Chosen, cured: Sequence[Cured], resin: Composite, rules: Rulebook) -> Decision:
    reason = say("ionomer.in_layers", name=chosen.item.name, limit_mm=resin.max_increment_mm)
    return Decision(
        topic="build.placement",
        chosen=f"{chosen.item.name}, in {_many(len(cured))}",
        alternatives=[],
        reasons=[*chosen.reasons, reason],
        rules=rules.uses(*lit_rules(chosen), "ionomer.surplus_share", *capsule_rules(chosen)),
    )


def _checks(cured: Sequence[Cured], chosen: Chosen, rules: Rulebook) -> list[Check]:
    thickest = max(cured, key=lambda one: one.thickness_mm)
    worst = min(cured, key=lambda one: one.worst_dose_j_cm2 / one.need.dose_j_cm2)
    return [
        Check(
            topic="increment.thickness",
            title="Thickest layer along the light",
            measured=round(thickest.thickness_mm, 2),
            needed=thickest.mass.max_increment_mm,
            relation="at_most",
            unit="mm",
            verdict="pass",
            remedy="Place it thinner.",
            where=thickest.portion.name,
            rules=rules.uses(*lit_rules(chosen)),
        ),
        Check(
            topic="increment.dose",
            title="Least exposed layer",
            measured=round(worst.worst_dose_j_cm2, 3),
            needed=round(worst.need.dose_j_cm2, 3),
            relation="at_least",
            unit="J/cm2",
            verdict="pass",
            remedy="Light it longer, or place it thinner.",
            where=worst.portion.name,
            rules=rules.uses(rule_of_dose(worst.mass)),
        ),
    ]
