"""What all restoratives share that light sets: their steps in order with pauses for the pulp, and what a plan says of each
increment."""

from __future__ import annotations

from collections.abc import Sequence

from mallet.cavity.access import Access
from mallet.curing.cured import Cured as CuredPortion
from mallet.curing.cured import Curing, lit_all_over, reasons_of
from mallet.curing.exposures import with_mode
from mallet.curing.warmth import (
    NO_COOLING,
    Cooling,
    after_each_portion,
    in_parts,
    judge_warmth,
    least_cooling,
    pulp_heat,
)
from mallet.light.cure import Lit
from mallet.restoratives.restorative import Points, Schedule
from mallet.rulebook import Rulebook
from mallet.stages.site import Site
from mallet.terms.increments import Cured, Exposure, Increment, LitPoint, measures_of
from mallet.terms.pieces import Point
from mallet.terms.plan import StageResult, Step


def in_order(
    site: Site, curing: Curing, stages: Sequence[StageResult], schedule: Schedule
) -> tuple[list[Step], list[StageResult]]:
    """Return all stages' steps in order for two people, exposures in parts and with pauses where the pulp asks for them, and
    what is said of its temperature; nothing where the pulp is not vital."""
    case, rules = site.case, site.rules
    heat = pulp_heat(case, site.cavity, curing.cured, curing.around, rules)

    def ordered(cooling: Cooling) -> list[Step]:
        every: list[Step] = []
        for stage in stages:
            is_build = stage.stage == "build"
            every += after_each_portion(stage.steps, cooling, rules) if is_build else stage.steps
        if heat:
            every = in_parts(every, heat, cooling, rules)
        return schedule(with_mode(every, case.light.output_mode))

    if not heat:
        return ordered(NO_COOLING), []
    cooled = least_cooling(heat, ordered, rules)
    return cooled.steps, [judge_warmth(cooled, rules).as_stage("warmth")]


def increments_of(curing: Curing, access: Access, rules: Rulebook, points: Points) -> list[Increment]:
    """Return the increments in order, with none, the dimmest or all of their places listed."""
    return [
        _increment(order, one, access, rules, _lit_at(points, order, curing))
        for order, one in enumerate(curing.cured, 1)
    ]


def _lit_at(points: Points, order: int, curing: Curing) -> Lit | None:
    """Return the places of an increment that are listed, with their light."""
    if points == "none":
        return None
    if points == "dimmest":
        return curing.cured[order - 1].lit
    return lit_all_over(curing.cured, order - 1, curing.around)


def _increment(
    order: int, one: CuredPortion, access: Access, rules: Rulebook, listed: Lit | None
) -> Increment:
    names = [aim.name for aim in one.lit.aims]
    exposed = zip(names, one.exposed.least_s, one.exposed.rungs, strict=True)
    # A ramp or pulses give less than the full output, on the mean of an exposure.
    shares = [rung.full_s / rung.seconds for rung in one.exposed.rungs]

    def told(lit: Lit) -> list[LitPoint]:
        light = lit.irradiance_mw_cm2 * shares
        return [
            LitPoint(x=x, y=y, z=z, irradiance_mw_cm2=dict(zip(names, row, strict=True)))
            for (x, y, z), row in zip(access.points_in_tooth(lit.points), light, strict=True)
        ]

    worst, (reasons, acting) = told(one.lit)[0], reasons_of(one, access.side, rules)
    volume = one.portion.solid.volume()
    cured = Cured(
        role=one.portion.role,
        thickness_mm=round(one.thickness_mm, 3),
        least_thickness_mm=round(one.least_width_mm, 3),
        c_factor=one.contacts.c_factor(),
        exposures=[
            Exposure(
                source=name,
                seconds=rung.seconds,
                presses=list(rung.presses),
                full_output_seconds=rung.full_s,
                seconds_by_dose=least_s,
                seconds_by_maker=one.need.seconds_by_maker,
            )
            for name, least_s, rung in exposed
        ],
        dose_needed_j_cm2=one.need.dose_j_cm2,
        dose_at_worst_point_j_cm2=one.worst_dose_j_cm2,
        worst_point=Point(x=worst.x, y=worst.y, z=worst.z),
        touches=one.contacts.areas_mm2(),
        points=told(listed) if listed else None,
    )
    return Increment(
        order=order,
        id=one.portion.id,
        name=one.portion.name,
        product=one.mass.name,
        lot=one.mass.lot,
        volume_mm3=volume,
        mass_g=volume * one.mass.density_g_cm3 / 1000,
        shaping=one.portion.sculpt,
        measures=measures_of(cured),
        detail=cured,
        reasons=reasons,
        rules=acting,
    )
