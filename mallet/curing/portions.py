"""Increments under the light: each with the least seconds that reach its need everywhere."""

from __future__ import annotations

import math
import os
from collections.abc import Iterator, Sequence
from concurrent.futures import ThreadPoolExecutor
from functools import cache

import numpy as np
from manifold3d import Manifold
from numpy.typing import NDArray

from mallet.cavity.measures import (
    Contacts,
    contacts_of,
    least_width_mm,
    longest_along_mm,
    longest_vertical_mm,
)
from mallet.cavity.preparation import Cavity
from mallet.cavity.rays import Scene
from mallet.curing.around import Surroundings
from mallet.curing.cured import Cured, Lighting, Portion, spot_of
from mallet.light.aims import LESS_WIDE_SHARE, SIDEWAYS, Field, aims_over
from mallet.light.beam import Beam
from mallet.light.cure import Body, Lit, Need, body_of, need_of, ways_worth_taking
from mallet.light.field import UP, Filling, axes_of
from mallet.light.presses import Button, button_of
from mallet.light.program import Program
from mallet.light.sides import hopes_from_sides_s, least_from_sides
from mallet.light.working_curve import curve_of
from mallet.rulebook import Rulebook
from mallet.terms.case import Case
from mallet.terms.reasons import refuse
from mallet.terms.restoration import Composite

Floats = NDArray[np.float64]


def in_place_s(rules: Rulebook) -> float:
    """Return how long an increment may be lit from one place in all, in several exposures."""
    return rules.value("light.longest_exposure_s") * rules.value("light.exposures_in_place")


def cure_portions(
    case: Case,
    cavity: Cavity,
    portions: Sequence[Portion],
    masses: Sequence[Composite],
    around: Surroundings,
    beam: Beam,
    rules: Rulebook,
    longest_s: Sequence[float],
) -> Iterator[Cured]:
    """Yield every increment of fixed cuts, each of its composite, with its least whole seconds, in order of placing; in ways
    that take no longer than its time from any place, if there are such."""
    insides = [Scene(portion.solid) for portion in portions]

    @cache
    def contacts(i: int) -> Contacts:
        there = around.at(portions[i].is_banded)
        return contacts_of(
            portions[i].solid,
            cavity.cut_tags,
            cavity.outer.tag,
            there.banded,
            insides[:i],
            there.is_held_behind,
            there.is_in_form,
        )

    fillings = [
        Filling(inside, curve_of(m).attenuation_per_mm) for inside, m in zip(insides, masses, strict=True)
    ]

    def cured(i: int) -> Cured:
        portion, mass = portions[i], masses[i]
        body, there = body_of(portion.solid, insides[i]), around.at(portion.is_banded)
        field = there.through(fillings[: i + 1])
        shortest, over_middle, from_above_s = _least_seconds(
            portion, contacts(i), mass, body, field, case, there, beam, rules, longest_s[i]
        )
        return Cured(
            portion=portion,
            inside=insides[i],
            mass=mass,
            contacts=contacts(i),
            thickness_mm=_thickness_mm(portion.solid, body.points, insides[i], around),
            least_width_mm=least_width_mm(portion.solid),
            lit=shortest.lit,
            need=shortest.need,
            exposed=shortest.exposed,
            over_middle=over_middle,
            from_above_s=from_above_s,
        )

    # No portion's light depends on another's: they are lit side by side. Compiled loops let others run meanwhile;
    # solids are cut one at a time. Whoever leaves off early calls off what has not begun.
    with ThreadPoolExecutor(os.cpu_count()) as pool:
        yield from pool.map(cured, range(len(portions)))


def _thickness_mm(solid: Manifold, points: Floats, inside: Scene, around: Surroundings) -> float:
    """Return the longest way inside an increment along the axis of the tip; in a form, which is lit from three sides,
    the longest to the nearest of those."""
    hold = around.hold
    if around.is_in_form:
        towards = (UP, SIDEWAYS["facial"], SIDEWAYS["lingual"])
        ways = [inside.first_hit(points, np.tile(way, (len(points), 1))) for way in towards]
        return float(np.min(ways, axis=0).max())
    if not hold.tilt_deg:
        return longest_vertical_mm(solid)
    return longest_along_mm(solid, axes_of(hold.towards))


def _least_seconds(
    portion: Portion,
    faces: Contacts,
    mass: Composite,
    body: Body,
    field: Field,
    case: Case,
    around: Surroundings,
    beam: Beam,
    rules: Rulebook,
    longest: float,
) -> tuple[Lighting, Lighting, float]:
    """Return the shortest way to light an increment in a field, over the middle from where the cavity opens to, and what
    light from there alone takes."""
    points, hold, button = body.points, around.hold, button_of(case.light)

    def needed(weakest_mw_cm2: float) -> Need:
        return need_of(mass, weakest_mw_cm2, beam.contact_mw_cm2, rules)

    def cost(weakest_mw_cm2: float, exposures: int) -> tuple[bool, float]:
        each_s = button.least(needed(weakest_mw_cm2).seconds).seconds
        return each_s > longest, exposures * each_s

    def through(lit: Lit) -> Lighting:
        need = needed(lit.weakest_mw_cm2)
        count, rung = len(lit.aims), button.least(need.seconds)
        return Lighting(lit, need, Program((need.seconds_by_dose,) * count, (rung,) * count))

    from_above = aims_over(points, around.skyline, beam, hold)
    lits = ways_worth_taking(body, from_above, field, rules, cost)
    if all(cost(lit.weakest_mw_cm2, len(lit.aims))[0] for lit in lits):
        less_wide = aims_over(points, around.skyline, beam, hold, LESS_WIDE_SHARE)
        untried = [aims for aims in less_wide if aims not in from_above]
        lits = ways_worth_taking(body, untried, field, rules, cost, lits)
    ways = [through(lit) for lit in lits if lit.weakest_mw_cm2 > 0]
    from_above_s = min(ways, key=lambda way: _cost(way, longest)).seconds if ways else math.inf
    if around.tooth and around.is_lit_round(portion.side, faces):
        aims = around.aims_round(from_above[0][0], points, beam)
        dose = need_of(mass, 1.0, beam.contact_mw_cm2, rules).dose_j_cm2
        if portion.part == "bulk" or around.is_open_behind:
            # In bulk, and what opens on both faces, is lit from all of them, whatever takes longer.
            found = least_from_sides(body, aims, field, dose, button, rules, longest, from_each=True)
            if found:
                return _from_sides(*found, mass, beam, button, rules), through(lits[0]), from_above_s
        is_too_long, best_s = min((_cost(way, longest) for way in ways), default=(True, math.inf))
        under_s = math.inf if is_too_long else best_s
        hopes = (
            hopes_from_sides_s(ways[0].lit, aims, field, dose, button, rules, longest) if ways else iter(())
        )
        if all(hope_s < under_s for hope_s in hopes):
            found = least_from_sides(body, aims, field, dose, button, rules, longest, under_s)
            if found:
                ways.append(_from_sides(*found, mass, beam, button, rules))
    if not ways:
        raise refuse("cure.dark", where=f"the {portion.name}", spot=spot_of(lits[-1], around.hold.access))
    return min(ways, key=lambda way: _cost(way, longest)), through(lits[0]), from_above_s


def _cost(way: Lighting, longest_s: float) -> tuple[bool, float]:
    """Return whether any exposure of a way is too long, and how long all take."""
    return max(way.exposed.seconds) > longest_s, way.seconds


def _from_sides(
    lit: Lit, program: Program, mass: Composite, beam: Beam, button: Button, rules: Rulebook
) -> Lighting:
    """Return a program without the sides that it leaves out, and never shorter than the manufacturer's time."""
    used = [i for i, seconds in enumerate(program.seconds) if seconds]
    lit = Lit(lit.points, tuple(lit.aims[i] for i in used), lit.irradiance_mw_cm2[:, used], lit.dim)
    rungs = [program.rungs[i] for i in used]
    full_s = np.array([rung.full_s for rung in rungs])
    mean_mw_cm2 = float(lit.irradiance_mw_cm2[0] @ full_s / full_s.sum())
    by_maker = need_of(mass, mean_mw_cm2, beam.contact_mw_cm2, rules)
    need = Need(by_maker.dose_j_cm2, sum(program.least_s), by_maker.seconds_by_maker)
    rest = float(full_s[1:].sum())
    rungs[0] = button.least(max(rungs[0].full_s, (need.seconds_by_maker or 0.0) - rest))
    return Lighting(lit, need, Program(tuple(program.least_s[i] for i in used), tuple(rungs)))
