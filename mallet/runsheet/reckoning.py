"""The reckoning: the few big numbers of a plan, each with the rules and inputs that made it."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

from mallet.cavity.preparation import Cavity
from mallet.light.beam import Beam
from mallet.light.working_curve import rule_of_dose
from mallet.rulebook import Rulebook
from mallet.stages.build.around import Surroundings
from mallet.stages.build.cured import AGAIN, Build, Cured, at_once_s, losses_at_worst, spot_of
from mallet.stages.lamp import mode_name
from mallet.terms.case import Case, FullOutput, get_path
from mallet.terms.plan import Figure, InputUse, RuleUse, Step, Totals

SCHOOL_RULES = {
    "wall_first": (
        "composite.gingival_lift_mm",
        "composite.wall_thickness_mm",
        "composite.enamel_layer_mm",
    ),
    "oblique": ("composite.gingival_lift_mm", "composite.enamel_layer_mm"),
    "horizontal": (),
}
PASSING = ["light.refractive_index", "light.wall_return_share", "light.wall_return_most"]
THROUGH_TOOTH = ["light.enamel_attenuation_per_mm", "light.dentin_attenuation_per_mm"]


@dataclass(frozen=True)
class Settled:
    """All that the reckoning reads: the case and what each stage made of it."""

    case: Case
    rules: Rulebook
    cavity: Cavity
    beam: Beam
    around: Surroundings
    build: Build
    steps: Sequence[Step]


def totals(s: Settled) -> Totals:
    """Return the plan's sums; chair minutes are rounded up to the half minute."""
    end = max(step.end_s for step in s.steps)
    return Totals(
        increments=len(s.build.cured),
        cure_seconds=sum(c.seconds for c in s.build.cured),
        light_seconds=sum(step.seconds for step in s.steps if step.light),
        chair_minutes=math.ceil(end / 30) / 2,
    )


def reckon(s: Settled) -> list[Figure]:
    """Return the five figures in the order in which they are shown."""
    sums = totals(s)
    return [_light(s, sums), _weakest(s), _increments(s), _filling(s), _chair(s, sums)]


def _light(s: Settled, sums: Totals) -> Figure:
    habit, opens = s.rules.value("light.habit_exposure_s"), s.cavity.access.side
    usual = habit * (len(s.build.cured) + 1)
    exposures = sum(1 for step in s.steps if step.light)
    above, at_once = sum(c.from_above_s for c in s.build.cured), at_once_s(s.build.cured, s.around)
    others = [
        f"habit, {habit:g} s for each portion and the adhesive: {usual:g} s",
        f"the portions lit from {opens} alone: {_seconds(above)}",
        f"the whole filling at once, lit from {opens} at full output: {_seconds(at_once)}",
    ]
    maker = [c for c in s.build.cured if (c.need.seconds_by_maker or 0) > c.need.seconds_by_dose]
    longer = f"; the maker's time is longer for {len(maker)}" if maker else ""
    acting = ["light.adhesive_dose_j_cm2", "light.habit_exposure_s", *PASSING]
    acting += sorted({rule_of_dose(c.mass) for c in s.build.cured})
    final = [step for step in s.steps if ".final." in step.id]
    acting += sorted({step.seconds_rule.rule for step in final if step.seconds_rule})
    least_s = s.rules.value("light.least_exposure_s")
    if any(c.need.seconds_by_dose <= least_s for c in s.build.cured):
        acting.append("light.least_exposure_s")
    if s.build.limit_mm < s.build.asked_mm and not s.case.light.tip_tilt_deg:
        acting.append("light.longest_exposure_s")
    if any(one.is_lit_again(s.rules) for one in s.build.cured):
        acting += AGAIN
    if any(aim.is_side for c in s.build.cured for aim in c.lit.aims):
        acting += THROUGH_TOOTH
    elif any(step.seconds > least_s for step in final):
        acting.append("light.dentin_attenuation_per_mm")
    return Figure(
        id="light_seconds",
        title="Under the light",
        value=sums.light_seconds,
        unit="s",
        detail=f"{exposures} exposures \u00b7 habit says {usual:g} s{longer}",
        how=(
            "Each portion's weakest point must reach its need: what the manufacturer's exposure leaves at half the"
            " scraped length, else the critical exposure times a factor. Seconds are rounded up to whole presses."
            " Adhesive and side exposures are added."
            f" Other ways: {'; '.join(others)}. {_mode(s)}"
        ),
        rules=s.rules.uses(*acting),
        inputs=[*_part_inputs(s), *_light_inputs(s), *_mass_inputs(s)],
        steps=[step.id for step in s.steps if step.light],
    )


def _seconds(seconds: float) -> str:
    return f"{seconds:.0f} s" if math.isfinite(seconds) else "not every point is reached"


def _mode(s: Settled) -> str:
    """Say how presses count where the output is not steady."""
    mode = s.case.light.output_mode
    if isinstance(mode, FullOutput):
        return "Output is full and steady."
    return f"Output: {mode_name(mode)}; presses count for what they give of the full one."


def weakest_of(build: Build) -> Cured:
    """Return the portion with the least dose over need."""
    return min(build.cured, key=lambda c: c.worst_dose_j_cm2 / c.need.dose_j_cm2)


def _weakest(s: Settled) -> Figure:
    worst = weakest_of(s.build)
    order = 1 + next(i for i, cured in enumerate(s.build.cured) if cured is worst)
    sent = " and ".join(
        f"{light * rung.full_s / rung.seconds:.0f} mW/cm\u00b2 for {rung.seconds:g} s"
        for light, rung in zip(worst.lit.irradiance_mw_cm2[0], worst.exposed.rungs, strict=True)
    )
    lost = losses_at_worst(s.build.cured, order - 1, s.around)
    through = THROUGH_TOOTH if any(aim.is_side for aim in worst.lit.aims) else []
    ratio = worst.worst_dose_j_cm2 / worst.need.dose_j_cm2
    reflected = f"walls return {lost.returned_mw_cm2:.0f} more; without that it would be a lower bound"
    habit = s.rules.value("light.habit_exposure_s")
    by_habit = habit * worst.lit.irradiance_mw_cm2[0, 0] / 1000 / worst.need.dose_j_cm2
    return Figure(
        id="weakest_point",
        title="Weakest point",
        value=math.floor(ratio * 100) / 100,
        unit="\u00d7 need",
        detail=(
            f"{worst.portion.name}, {spot_of(worst.lit, s.cavity.access)};"
            f" the customary {habit:g} s give {by_habit:.2f} there"
        ),
        how=(
            f"Planar irradiance of {sent} is"
            f" {worst.worst_dose_j_cm2:.2f} J/cm\u00b2; needed there {worst.need.dose_j_cm2:.2f}. Of the lamp's"
            f" {s.beam.contact_mw_cm2:.0f} at contact {lost.open_mw_cm2:.0f} would come as far,"
            f" {lost.past_walls_mw_cm2:.0f} past what stands in the way, {lost.arriving_mw_cm2:.0f}"
            f" through the mass. Rays from the tip,"
            f" blocked by tooth, metal band and neighbours, weakened in the mass; {reflected}."
        ),
        rules=s.rules.uses(
            rule_of_dose(worst.mass),
            *PASSING,
            "light.habit_exposure_s",
            *through,
        ),
        inputs=[*_part_inputs(s), *_light_inputs(s), *_mass_inputs(s)],
        steps=[step.id for step in s.steps if step.light and step.increment == order],
    )


def _increments(s: Settled) -> Figure:
    thickest = max(c.thickness_mm for c in s.build.cured)
    mean = sum(c.thickness_mm for c in s.build.cured) / len(s.build.cured)
    acting = list(SCHOOL_RULES[s.build.layering.school])
    if s.build.limit_mm < s.build.asked_mm and not s.case.light.tip_tilt_deg:
        acting.append("light.longest_exposure_s")
    if any(one.is_lit_again(s.rules) for one in s.build.cured):
        acting += AGAIN
    return Figure(
        id="increments",
        title="Increments",
        value=len(s.build.cured),
        unit="",
        detail=f"none over {thickest:.2f} mm, {mean:.2f} on average",
        how=(
            "The school cuts the filling; the longest straight way along the light inside a portion"
            " stays within the mass's largest increment and what one exposure can cure."
        ),
        rules=s.rules.uses(*acting),
        inputs=[
            *_part_inputs(s),
            *[_input(s.case, f"masses[{i}].max_increment_mm", "mm") for i in range(len(s.case.masses))],
            _input(s.case, "school.layering", ""),
        ],
        steps=[step.id for step in s.steps if step.increment and not step.light],
    )


def filling_mass_g(build: Build) -> float:
    """Return the mass of all portions."""
    return float(sum(c.portion.solid.volume() * c.mass.density_g_cm3 / 1000 for c in build.cured))


def _filling(s: Settled) -> Figure:
    crown = InputUse(
        path="tooth.code",
        value=f"{s.cavity.tooth.iso}, crown {s.cavity.crown.mesiodistal_mm:g} x {s.cavity.crown.buccolingual_mm:g} mm",
        unit="",
        provenance="handbook",
    )
    density = [_input(s.case, f"masses[{i}].density_g_cm3", "g/cm3") for i in range(len(s.case.masses))]
    grams = filling_mass_g(s.build)
    return Figure(
        id="filling",
        title="Filling",
        value=round(s.cavity.filling.volume(), 1),
        unit="mm\u00b3",
        detail=f"{grams:.2f} g within the crown's outline",
        how=(
            "What lies between the tooth scanned before and after cutting."
            if s.cavity.scanned
            else "What the preparation cuts out of the handbook crown, closed to its original surface."
        ),
        rules=[],
        inputs=[*_part_inputs(s), crown, *density],
    )


def _chair(s: Settled, sums: Totals) -> Figure:
    seen: dict[str, RuleUse] = {}
    end = max(step.end_s for step in s.steps)
    for step in s.steps:
        if step.seconds_rule and step.actor != "assistant" and not step.light and step.seconds > 0:
            seen.setdefault(step.seconds_rule.rule, step.seconds_rule)
    seen.setdefault("chair.place_fixed_s", s.rules.use("chair.place_fixed_s"))
    return Figure(
        id="chair_minutes",
        title="Chair time",
        value=sums.chair_minutes,
        unit="min",
        detail=f"{len(s.steps)} steps for two, {end // 60:.0f} min {end % 60:.0f} s from the first step to the last",
        how="The steps in order for two pairs of hands, with the lamp's seconds; rounded up to 30 s.",
        rules=list(seen.values()),
        inputs=_part_inputs(s),
    )


def _input(case: Case, path: str, unit: str) -> InputUse:
    return InputUse(path=path, value=get_path(case, path), unit=unit, provenance=case.provenance_of(path))


SIZES = {
    "occlusal_box": ("depth_mm", "width_mm", "length_mm"),
    "proximal_box": ("height_mm", "width_mm", "axial_depth_mm"),
    "cusp_reduction": ("tip_mm",),
    "saucer": ("width_mm", "height_mm", "depth_mm"),
    "proximal_cavity": ("height_mm", "depth_mm", "reach_mm"),
    "incisal_fracture": ("mesial_mm", "distal_mm"),
    "pit": ("diameter_mm", "depth_mm"),
    "sealant_groove": ("length_mm", "width_mm", "depth_mm"),
    "tunnel": ("under_ridge_mm", "inside_mm", "diameter_mm"),
    "crown_stump": ("edge_mm", "around_mm", "above_cervical_mm"),
    "retention_groove": ("depth_mm", "width_mm", "height_mm"),
    "slot": ("length_mm", "width_mm", "depth_mm"),
    "pin_hole": ("diameter_mm", "depth_mm"),
    "dovetail_notch": ("width_mm", "height_mm", "depth_mm"),
    "shoulder": ("width_mm", "above_cervical_mm"),
    "notch": ("width_mm", "height_mm", "depth_mm"),
}


def _part_inputs(s: Settled) -> list[InputUse]:
    inputs = []
    for i, part in enumerate(s.case.preparation.parts):
        sizes = SIZES[part.kind]
        inputs += [_input(s.case, f"preparation.parts[{i}].{name}", "mm") for name in sizes]
    return inputs


def _light_inputs(s: Settled) -> list[InputUse]:
    contact = InputUse(
        path="light.readings",
        value=f"{s.beam.contact_mw_cm2:.0f} at contact, n {s.beam.exponent:.2f}, {len(s.case.light.readings)} readings",
        unit="mW/cm2",
        provenance=s.case.provenance_of("light.readings"),
    )
    mode = InputUse(
        path="light.output_mode", value=mode_name(s.case.light.output_mode), unit="", provenance="measured"
    )
    return [contact, _input(s.case, "light.tip_diameter_mm", "mm"), mode]


def _mass_inputs(s: Settled) -> list[InputUse]:
    inputs = []
    for i in range(len(s.case.masses)):
        inputs.append(_input(s.case, f"masses[{i}].penetration_depth_mm", "mm"))
        inputs.append(_input(s.case, f"masses[{i}].critical_exposure_j_cm2", "J/cm2"))
    return inputs
