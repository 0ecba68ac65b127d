"""The light on the adhesive layer, before anything is placed on it."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from mallet.cavity.preparation import Cavity
from mallet.cavity.rays import Scene
from mallet.curing.around import Surroundings
from mallet.curing.cured import Cured, spot_of
from mallet.light.aims import aims_over
from mallet.light.beam import Beam
from mallet.light.cure import Body, Lit, body_of, maker_seconds, ways_worth_taking
from mallet.light.presses import Button, Rung
from mallet.light.sides import least_from_sides
from mallet.rulebook import Rulebook
from mallet.terms.case import Case
from mallet.terms.reasons import refuse
from mallet.terms.stock import Adhesive


@dataclass(frozen=True)
class Exposed:
    """One exposure of the adhesive layer: its aim and what is pressed."""

    aim: str
    rung: Rung


@dataclass(frozen=True)
class FilmCure:
    """The light on the adhesive layer before anything is placed on it: its exposures; what its darkest corner gets of
    them (J/cm2) and where; what gels it, what it wants in all, and what it has at least once the increments are
    lit (J/cm2)."""

    exposures: Sequence[Exposed]
    own_j_cm2: float
    spot: str
    gels_j_cm2: float
    wanted_j_cm2: float
    in_all_j_cm2: float

    @property
    def seconds(self) -> float:
        return sum(one.rung.seconds for one in self.exposures)

    @property
    def mean_mw_cm2(self) -> float:
        """Return what the darkest corner gets on average while the film is lit: of exposures over halves one may miss
        it."""
        return 1000 * self.own_j_cm2 / self.seconds


def film_cure(
    case: Case,
    cavity: Cavity,
    cured: Sequence[Cured],
    around: Surroundings,
    beam: Beam,
    adhesive: Adhesive | None,
    rules: Rulebook,
) -> FilmCure:
    """Return the light on the adhesive layer under increments, the cavity still empty and the curing light at full output.

    Its own exposure gels it at its darkest corner and lasts the manufacturer's time. Whatever lies over a place of it brings
    at least its own worst dose there later: what that leaves of the whole need is asked of the film's own exposure.
    """
    film, button = _film(cavity), Button(tuple(case.light.time_steps_s))
    gels, wanted = _doses_j_cm2(adhesive, rules)
    added = min(one.worst_dose_j_cm2 for one in cured)
    dose = max(gels, wanted - added)
    maker = adhesive.manufacturer if adhesive else None
    by_maker = maker_seconds(maker, beam.contact_mw_cm2) if maker else 0.0
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
    if around.is_in_form or around.sunk or around.is_open_behind:
        aims = around.aims_round(from_above[0][0], film.points, beam)
        under_s = min((sum(rung.seconds for rung in rungs) for _, rungs in ways), default=math.inf)
        found = least_from_sides(film, aims, field, dose, button, rules, longest_s, under_s)
        ways += [(found[0], list(found[1].rungs))] if found else []
    if not ways:
        raise refuse("cure.dark", where="the adhesive layer", spot=spot_of(best, around.hold.access))

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


def _doses_j_cm2(adhesive: Adhesive | None, rules: Rulebook) -> tuple[float, float]:
    """Return what gels a film, and what it wants in all."""
    critical = adhesive.critical_exposure_j_cm2 if adhesive else None
    if critical is None:
        return rules.value("light.adhesive_gel_j_cm2"), rules.value("light.adhesive_dose_j_cm2")
    return critical, critical * rules.value("light.conversion_factor")


def _film(cavity: Cavity) -> Body:
    """Return the walls and floors that the adhesive covers, as they are searched: all that the restoration has against
    tooth or base."""
    tags = list(cavity.cut_tags)
    return body_of(cavity.filling, Scene(cavity.filling), lambda whole: np.isin(whole.tags, tags))
