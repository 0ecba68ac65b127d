"""Building composite: portions by a school, each with its seconds under the light."""

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
from mallet.light.beam import Beam
from mallet.light.cure import (
    LESS_WIDE_SHARE,
    SIDEWAYS,
    Body,
    Field,
    Lit,
    Need,
    aims_over,
    body_of,
    maker_seconds,
    need_of,
    ways_worth_taking,
)
from mallet.light.field import UP, Filling, axes_of
from mallet.light.presses import Button, Rung, button_of
from mallet.light.program import Program
from mallet.light.sides import hopes_from_sides_s, least_from_sides
from mallet.light.working_curve import curve_of
from mallet.rulebook import Rulebook
from mallet.stages.bond import Exposed, FilmCure
from mallet.stages.build.around import Surroundings
from mallet.stages.build.bottom import bottom_of
from mallet.stages.build.cured import Build, Cured, Lighting, losses_at_worst, spot_of
from mallet.stages.build.layering import Portion, layer
from mallet.terms.case import Case, Consistency, Mass, MassRole
from mallet.terms.plan import Caution, Decision
from mallet.terms.reasons import refuse, say, warn
from mallet.terms.shelf import Adhesive

Floats = NDArray[np.float64]
THINNER = 0.82
MARGIN = 1.03
SLACK_MM = 5e-3
# A stronger lamp than any reading may tell of is no advice.
MOST_OUTPUT_MW_CM2 = 10000.0


def build_composite(case: Case, cavity: Cavity, around: Surroundings, beam: Beam, rules: Rulebook) -> Build:
    """Return the portions of the asked school, cut thinner until each cures in one exposure from a place; in several,
    where it would have to be cut thinner than any is laid out of habit.

    Raises NotFeasible where even the thinnest portion would need too long.
    """
    asked = min(mass.max_increment_mm for mass in case.masses)
    once_s, thin_mm = rules.value("light.longest_exposure_s"), rules.value("composite.thin_layer_mm")
    limit, reasons, is_again = asked, [], False
    is_surely_too_dark = bottom_of(case, cavity, mass_for(case.masses, "body"), around, beam, rules)
    tilt = case.light.tip_tilt_deg
    if tilt:
        # Light goes aslant through a layer, and no way along it may be longer than the mass allows.
        limit = asked * math.cos(math.radians(tilt))

    def is_slow(c: Cured, longest: float) -> bool:
        return max(c.exposed.least_s) > longest + 1e-9 or max(c.exposed.seconds) > longest

    while True:
        longest = in_place_s(rules) if is_again or limit * THINNER < thin_mm else once_s
        can_thin = limit * THINNER >= rules.value("composite.least_portion_mm")
        if can_thin and is_surely_too_dark(limit, longest):
            limit *= THINNER
            continue
        layering = layer(case.school.layering, cavity, limit, rules)
        # With one that is too slow and may still be cut thinner there is no need to light the rest.
        cured = []
        for one in cure_portions(case, cavity, layering.portions, around, beam, rules, longest):
            cured.append(one)
            if can_thin and is_slow(one, longest):
                break
        slow = [one for one in cured if is_slow(one, longest)]
        over = [c for c in cured if tilt and c.thickness_mm > asked + SLACK_MM]
        if not slow and not over:
            break
        if not slow:
            # A slope that faces away from the tip makes the way longer than the tilt alone does.
            limit *= THINNER
            if limit < rules.value("composite.least_portion_mm"):
                straight: dict[str, object] = {"light.tip_tilt_deg": 0}
                raise refuse("cure.too_aslant", straight, tilt_deg=tilt, asked_mm=asked)
            continue
        worst = max(slow, key=lambda c: c.need.seconds)
        by_maker_s = worst.need.seconds_by_maker or 0.0
        if by_maker_s > in_place_s(rules) or not can_thin:
            raise _too_long(worst, cured, around, limit, button_of(case.light), beam, rules)
        # No cut makes the maker's time shorter.
        if by_maker_s > once_s and not is_again:
            is_again = True
        else:
            limit *= THINNER
    if tilt:
        reasons.append(say("layering.aslant", limit_mm=limit, asked_mm=asked, tilt_deg=tilt))
    elif limit < asked:
        cut: dict[str, float] = {"limit_mm": limit, "asked_mm": asked, "longest_s": once_s}
        times = rules.value("light.exposures_in_place")
        if limit < thin_mm and times > 1:
            reasons.append(say("layering.thinned_again", **cut, times=times))
        else:
            reasons.append(say("layering.thinned", **cut))
    return Build(layering, cured, limit, asked, [*layering.reasons, *reasons, say("layering.stress")])


def in_place_s(rules: Rulebook) -> float:
    """Return how long a portion may be lit from one place in all, in several exposures."""
    return rules.value("light.longest_exposure_s") * rules.value("light.exposures_in_place")


def cure_portions(
    case: Case,
    cavity: Cavity,
    portions: Sequence[Portion],
    around: Surroundings,
    beam: Beam,
    rules: Rulebook,
    longest_s: float,
) -> Iterator[Cured]:
    """Yield every portion of fixed cuts with its least whole seconds, in order of placing; in ways that take no longer
    than a time from any place, if there are such."""
    insides = [Scene(portion.solid) for portion in portions]

    @cache
    def contacts(i: int) -> Contacts:
        return contacts_of(
            portions[i].solid,
            cavity.cut_tags,
            cavity.outer.tag,
            around.banded,
            insides[:i],
            around.is_held_behind,
            around.is_in_form,
        )

    masses = [mass_for(case.masses, portion.role) for portion in portions]
    fillings = [
        Filling(inside, curve_of(m).attenuation_per_mm) for inside, m in zip(insides, masses, strict=True)
    ]

    def cured(i: int) -> Cured:
        portion, mass = portions[i], masses[i]
        body = body_of(portion.solid, insides[i])
        field = around.through(fillings[: i + 1])
        shortest, over_middle, from_above_s = _least_seconds(
            portion, contacts(i), mass, body, field, case, around, beam, rules, longest_s
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
    """Return the longest way inside a portion along the axis of the tip; in a form, which is lit from three sides,
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
    mass: Mass,
    body: Body,
    field: Field,
    case: Case,
    around: Surroundings,
    beam: Beam,
    rules: Rulebook,
    longest: float,
) -> tuple[Lighting, Lighting, float]:
    """Return the shortest way to light a portion in a field, over the middle from where the cavity opens to, and what
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
    lit: Lit, program: Program, mass: Mass, beam: Beam, button: Button, rules: Rulebook
) -> Lighting:
    """Return a program without the sides that it leaves out, and never shorter than the maker's time."""
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


def mass_for(masses: Sequence[Mass], role: MassRole) -> Mass:
    """Return the composite for a role; where there is none of it the body shade, else any. Their order decides nothing:
    a paste comes before what flows, then the name."""
    return min(masses, key=lambda mass: (*_apart_from(mass, role), mass.name))


CONSISTENCIES: tuple[Consistency, ...] = ("paste", "injectable", "flowable", "stain")


def _apart_from(mass: Mass, role: MassRole) -> tuple[bool, int, bool]:
    """Return how far a composite is from what a wall or a form wants: by its role, and by how it flows."""
    is_stain = mass.consistency == "stain"
    by_role = 0 if mass.role == role else 1 if mass.role == "body" else 2
    return is_stain, by_role, CONSISTENCIES.index(mass.consistency) > 0


def not_placed(case: Case, build: Build) -> list[Caution]:
    """Return which of the chosen composites are not placed anywhere."""
    placed = {cured.mass.name for cured in build.cured}
    return [
        warn("note", "build.not_placed", "The plan itself", name=mass.name)
        for mass in sorted(case.masses, key=lambda mass: mass.name)
        if mass.name not in placed
    ]


def ambiguous(case: Case, build: Build) -> list[Decision]:
    """Return each choice among composites of one role and consistency that only their names decided."""
    found = []
    for name in sorted({cured.mass.name for cured in build.cured}):
        taken = next(mass for mass in case.masses if mass.name == name)
        like = [m.name for m in case.masses if (m.role, m.consistency) == (taken.role, taken.consistency)]
        if len(like) > 1:
            others = sorted(other for other in like if other != name)
            reasons = [say("build.ambiguous", role=taken.role)]
            topic = f"build.composite.{taken.role}"
            found.append(Decision(topic=topic, chosen=name, alternatives=others, reasons=reasons))
    return found


def _too_long(
    worst: Cured,
    cured: Sequence[Cured],
    around: Surroundings,
    limit: float,
    button: Button,
    beam: Beam,
    rules: Rulebook,
) -> Exception:
    """Return the refusal: which point holds it up and why, and the lamp output that would do for the same
    portion."""
    order = next(i for i, one in enumerate(cured) if one is worst)
    lost = losses_at_worst(cured, order, around)
    longest = in_place_s(rules)
    most_s = button.rungs(0.0, longest)[-1].full_s or longest
    output = MARGIN * beam.contact_mw_cm2 * worst.need.seconds / most_s
    nearest: dict[str, object] = {"for": worst.portion.name}
    if output <= MOST_OUTPUT_MW_CM2:
        nearest["light.output_mw_cm2"] = float(np.ceil(output / 10) * 10)
    return refuse(
        "cure.too_long",
        nearest,
        where=f"The {worst.portion.name}",
        spot=spot_of(worst.lit, around.hold.access),
        contact_mw_cm2=beam.contact_mw_cm2,
        open_mw_cm2=lost.open_mw_cm2,
        past_walls_mw_cm2=lost.past_walls_mw_cm2,
        arriving_mw_cm2=lost.arriving_mw_cm2,
        needed_s=round(worst.need.seconds),
        limit_mm=round(limit, 2),
        times=rules.value("light.exposures_in_place"),
        longest_s=rules.value("light.longest_exposure_s"),
    )


def film_cure(
    case: Case,
    cavity: Cavity,
    build: Build,
    around: Surroundings,
    beam: Beam,
    adhesive: Adhesive | None,
    rules: Rulebook,
) -> FilmCure:
    """Return the light on the adhesive film under a build, the cavity still empty and the lamp at full output.

    Its own exposure gels it at its darkest corner and lasts the maker's time. Whatever lies over a place of it brings
    at least its own worst dose there later: what that leaves of the whole need is asked of the film's own exposure.
    """
    film, button = _film(cavity), Button(tuple(case.light.time_steps_s))
    factor = rules.value("light.conversion_factor")
    critical = adhesive.critical_exposure_j_cm2 if adhesive else None
    gels = rules.value("light.adhesive_gel_j_cm2") if critical is None else critical
    wanted = rules.value("light.adhesive_dose_j_cm2") if critical is None else critical * factor
    added = min(cured.worst_dose_j_cm2 for cured in build.cured)
    dose = max(gels, wanted - added)
    by_maker = maker_seconds(adhesive.maker, beam.contact_mw_cm2) if adhesive and adhesive.maker else 0.0
    least_s, longest_s = rules.value("light.least_exposure_s"), rules.value("light.longest_exposure_s")
    field = around.through(())

    def rung_of(weakest_mw_cm2: float) -> Rung:
        wanted_s = max(dose * 1000 / weakest_mw_cm2, least_s, by_maker)
        return button.rungs(0.0, longest_s)[-1] if wanted_s > longest_s else button.least(wanted_s)

    def cost(weakest_mw_cm2: float, exposures: int) -> tuple[bool, float]:
        if weakest_mw_cm2 <= 0:
            return True, math.inf
        return dose * 1000 / weakest_mw_cm2 > longest_s, exposures * rung_of(weakest_mw_cm2).seconds

    from_above = aims_over(film.points, around.skyline, beam, around.hold)
    lits = ways_worth_taking(film, from_above, field, rules, cost)
    best = min(lits, key=lambda lit: cost(lit.weakest_mw_cm2, len(lit.aims)))
    ways = [(best, [rung_of(best.weakest_mw_cm2)] * len(best.aims))] if best.weakest_mw_cm2 > 0 else []
    if around.is_in_form or around.sunk:
        aims = around.aims_round(from_above[0][0], film.points, beam)
        under_s = min((sum(rung.seconds for rung in rungs) for _, rungs in ways), default=math.inf)
        found = least_from_sides(film, aims, field, dose, button, rules, longest_s, under_s)
        ways += [(found[0], list(found[1].rungs))] if found else []
    if not ways:
        raise refuse("cure.dark", where="the adhesive film", spot=spot_of(best, around.hold.access))

    def brought(way: tuple[Lit, list[Rung]]) -> float:
        lit, rungs = way
        return float(lit.irradiance_mw_cm2[0] @ [rung.full_s for rung in rungs]) / 1000

    lit, rungs = min(ways, key=lambda way: (brought(way) < dose, sum(rung.seconds for rung in way[1])))
    own = brought((lit, rungs))
    return FilmCure(
        exposures=[
            Exposed(aim.name, rung) for aim, rung in zip(lit.aims, rungs, strict=True) if rung.presses
        ],
        own_j_cm2=own,
        spot=spot_of(lit, around.hold.access),
        gels_j_cm2=gels,
        wanted_j_cm2=wanted,
        in_all_j_cm2=own + added,
    )


def _film(cavity: Cavity) -> Body:
    """Return the walls and floors that the adhesive covers, as they are searched: all that the filling has against
    tooth or base."""
    tags = list(cavity.cut_tags)
    return body_of(cavity.filling, Scene(cavity.filling), lambda whole: np.isin(whole.tags, tags))
