"""The big numbers of a composite, each with the rules and inputs that made it: light, weakest point, increments."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

from mallet.cavity.preparation import Cavity
from mallet.curing.around import Surroundings
from mallet.curing.cured import AGAIN, Cured, Curing, at_once_s, losses_at_worst, spot_of
from mallet.curing.lamp import mode_name
from mallet.light.working_curve import rule_of_dose
from mallet.restoratives.composite.build import Build
from mallet.rulebook import Rulebook
from mallet.stages.asks import title_of
from mallet.stages.inputs import input_of, part_inputs
from mallet.terms.case import Case
from mallet.terms.plan import Figure, InputUse, Step
from mallet.terms.restoration import FullOutput

SCHOOL_RULES = {
    "wall_first": (
        "composite.gingival_lift_mm",
        "composite.wall_thickness_mm",
        "composite.enamel_layer_mm",
    ),
    "wall_then_oblique": (
        "composite.gingival_lift_mm",
        "composite.wall_thickness_mm",
        "composite.cusp_portion_mm3",
        "composite.enamel_layer_mm",
    ),
    "oblique": ("composite.gingival_lift_mm", "composite.enamel_layer_mm"),
    "horizontal": (),
    "bulk": ("composite.bulk_from_mm",),
}
PASSING = ["light.refractive_index", "light.wall_return_share", "light.wall_return_most"]
THROUGH_TOOTH = ["light.enamel_attenuation_per_mm", "light.dentin_attenuation_per_mm"]


@dataclass(frozen=True)
class Reckoned:
    """All that the reckoning reads."""

    case: Case
    rules: Rulebook
    cavity: Cavity
    curing: Curing
    build: Build
    steps: Sequence[Step]

    @property
    def cured(self) -> Sequence[Cured]:
        return self.curing.cured

    @property
    def around(self) -> Surroundings:
        return self.curing.around


def reckon(s: Reckoned) -> list[Figure]:
    """Return the figures in the order in which they are shown."""
    return [_light(s), _weakest(s), _increments(s)]


def _light(s: Reckoned) -> Figure:
    habit, opens = s.rules.value("light.habit_exposure_s"), s.cavity.access.side
    usual = habit * (len(s.cured) + 1)
    exposures = sum(1 for step in s.steps if step.light)
    above, at_once = sum(c.from_above_s for c in s.cured), at_once_s(s.cured, s.around)
    others = [
        f"customary, {habit:g} s for each increment and the adhesive: {usual:g} s",
        f"the increments lit from {opens} alone: {_seconds(above)}",
        f"the whole restoration at once, lit from {opens} at full output: {_seconds(at_once)}",
    ]
    maker = [c for c in s.cured if (c.need.seconds_by_maker or 0) > c.need.seconds_by_dose]
    longer = f"; the manufacturer's time is longer for {len(maker)}" if maker else ""
    acting = ["light.adhesive_dose_j_cm2", "light.habit_exposure_s", *PASSING]
    acting += sorted({rule_of_dose(c.mass) for c in s.cured})
    final = [step for step in s.steps if step.role == "after_band"]
    acting += sorted({step.seconds_rule.rule for step in final if step.seconds_rule})
    least_s = s.rules.value("light.least_exposure_s")
    if any(c.need.seconds_by_dose <= least_s for c in s.cured):
        acting.append("light.least_exposure_s")
    if s.build.thinned and not s.case.light.tip_tilt_deg:
        acting.append("light.longest_exposure_s")
    if any(one.is_lit_again(s.rules) for one in s.cured):
        acting += AGAIN
    if any(aim.is_side for c in s.cured for aim in c.lit.aims):
        acting += THROUGH_TOOTH
    elif any(step.seconds > least_s for step in final):
        acting.append("light.dentin_attenuation_per_mm")
    return Figure(
        id="light_seconds",
        title="Total curing time",
        value=sum(step.seconds for step in s.steps if step.light),
        unit="s",
        detail=f"{exposures} exposures \u00b7 customary: {usual:g} s{longer}",
        how=(
            "Every point must reach the required radiant exposure: what the manufacturer's exposure leaves at half the"
            " scraped length, else the critical exposure times a factor. Seconds are rounded up to whole curing cycles."
            " Adhesive and side exposures are added."
            f" Other ways: {'; '.join(others)}. {_mode(s)}"
        ),
        rules=s.rules.uses(*acting),
        inputs=[*part_inputs(s.case), *_light_inputs(s), *_mass_inputs(s)],
        steps=[step.id for step in s.steps if step.light],
    )


def _seconds(seconds: float) -> str:
    return f"{seconds:.0f} s" if math.isfinite(seconds) else "part stays uncured"


def _mode(s: Reckoned) -> str:
    """Say how presses count where the output is not steady."""
    mode = s.case.light.output_mode
    if isinstance(mode, FullOutput):
        return "Output is full and steady."
    return f"Output: {mode_name(mode)}; curing cycles count for what they give of full output."


def _weakest(s: Reckoned) -> Figure:
    worst = s.curing.weakest
    order = 1 + next(i for i, cured in enumerate(s.cured) if cured is worst)
    sent = " and ".join(
        f"{light * rung.full_s / rung.seconds:.0f} mW/cm\u00b2 for {rung.seconds:g} s"
        for light, rung in zip(worst.lit.irradiance_mw_cm2[0], worst.exposed.rungs, strict=True)
    )
    lost = losses_at_worst(s.cured, order - 1, s.around)
    through = THROUGH_TOOTH if any(aim.is_side for aim in worst.lit.aims) else []
    ratio = worst.worst_dose_j_cm2 / worst.need.dose_j_cm2
    reflected = f"walls return {lost.returned_mw_cm2:.0f} more; without that it would be a lower bound"
    habit = s.rules.value("light.habit_exposure_s")
    by_habit = habit * worst.lit.irradiance_mw_cm2[0, 0] / 1000 / worst.need.dose_j_cm2
    return Figure(
        id="weakest_point",
        title="Lowest radiant exposure",
        value=math.floor(ratio * 100) / 100,
        unit="\u00d7 required",
        detail=(
            f"{worst.portion.name}, {spot_of(worst.lit, s.cavity.access)};"
            f" the customary {habit:g} s give {by_habit:.2f} there"
        ),
        how=(
            f"{sent}: {worst.worst_dose_j_cm2:.2f} J/cm\u00b2; required there {worst.need.dose_j_cm2:.2f}."
            f" Of {s.curing.beam.contact_mw_cm2:.0f} mW/cm\u00b2 at the light tip, {lost.open_mw_cm2:.0f} would reach this"
            f" distance unobstructed, {lost.past_walls_mw_cm2:.0f} after shading by tooth, matrix and adjacent teeth,"
            f" {lost.arriving_mw_cm2:.0f} after the composite; {reflected}."
        ),
        rules=s.rules.uses(
            rule_of_dose(worst.mass),
            *PASSING,
            "light.habit_exposure_s",
            *through,
        ),
        inputs=[*part_inputs(s.case), *_light_inputs(s), *_mass_inputs(s)],
        steps=[step.id for step in s.steps if step.light and step.increment == order],
    )


def _increments(s: Reckoned) -> Figure:
    thickest = max(c.thickness_mm for c in s.cured)
    mean = sum(c.thickness_mm for c in s.cured) / len(s.cured)
    acting = list(SCHOOL_RULES[s.build.layering.school])
    if s.build.thinned and not s.case.light.tip_tilt_deg:
        acting.append("light.longest_exposure_s")
    if any(one.is_lit_again(s.rules) for one in s.cured):
        acting += AGAIN
    return Figure(
        id="increments",
        title="Increments",
        value=len(s.cured),
        unit="",
        detail=f"none over {thickest:.2f} mm, {mean:.2f} on average",
        how=(
            "Increment thickness, measured along the light path, never exceeds the composite's maximum or what one"
            " exposure can cure."
        ),
        rules=s.rules.uses(*acting),
        inputs=[
            *part_inputs(s.case),
            *[
                input_of(s.case, f"restoration.composites[{i}].max_increment_mm", "mm")
                for i in range(len(s.case.composites))
            ],
            input_of(s.case, "restoration.technique", ""),
        ],
        steps=[step.id for step in s.steps if step.increment and not step.light],
    )


def _light_inputs(s: Reckoned) -> list[InputUse]:
    contact = InputUse(
        path="restoration.light.readings",
        title=title_of(s.case, "restoration.light.readings"),
        value=f"{s.curing.beam.contact_mw_cm2:.0f} at contact, n {s.curing.beam.exponent:.2f}, {len(s.case.light.readings)} readings",
        unit="mW/cm2",
        provenance=s.case.provenance_of("restoration.light.readings"),
    )
    mode = InputUse(
        path="restoration.light.output_mode",
        title=title_of(s.case, "restoration.light.output_mode"),
        value=mode_name(s.case.light.output_mode),
        unit="",
        provenance="measured",
    )
    return [contact, input_of(s.case, "restoration.light.tip_diameter_mm", "mm"), mode]


def _mass_inputs(s: Reckoned) -> list[InputUse]:
    inputs = []
    for i in range(len(s.case.composites)):
        inputs.append(input_of(s.case, f"restoration.composites[{i}].penetration_depth_mm", "mm"))
        inputs.append(input_of(s.case, f"restoration.composites[{i}].critical_exposure_j_cm2", "J/cm2"))
    return inputs
