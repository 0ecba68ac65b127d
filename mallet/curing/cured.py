"""Increments with their cure, and what can be told of it: where light is lost, what other ways would take."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Literal, NamedTuple

import numpy as np
from manifold3d import Manifold

from mallet.cavity.access import Access
from mallet.cavity.measures import Contacts
from mallet.cavity.rays import Scene
from mallet.curing.around import Surroundings
from mallet.light.beam import Beam
from mallet.light.cure import Lit, Need, body_of, each_mw_cm2
from mallet.light.field import FINE, Filling, Grain
from mallet.light.presses import Button, Rung
from mallet.light.program import Program
from mallet.light.working_curve import curve_of, rule_of_dose
from mallet.rulebook import Rulebook
from mallet.terms.parts import Side
from mallet.terms.pieces import Reason, RuleUse
from mallet.terms.plan import Step
from mallet.terms.reasons import say
from mallet.terms.restoration import Composite, ShadeRole

COARSE = Grain(6, 10)
# What lets a portion be lit again from the same place.
AGAIN = ("light.exposures_in_place", "composite.thin_layer_mm")


PortionPart = Literal["floor", "gingival_floor", "wall", "lingual_wall", "facial_enamel", "bulk"]


@dataclass(frozen=True)
class Portion:
    """One increment to be placed and cured: a stable id, a name, and the composite role it wants; `part` is what it is of, where
    that asks something of the hand, and whether its band stands yet when it is lit."""

    id: str
    name: str
    solid: Manifold
    role: ShadeRole
    side: Side | None
    sculpt: str
    part: PortionPart | None = None
    is_banded: bool = True


class Lighting(NamedTuple):
    """A way to light an increment: its dimmest points, what they need, and the exposures that give it."""

    lit: Lit
    need: Need
    exposed: Program

    @property
    def seconds(self) -> float:
        return sum(self.exposed.seconds)


@dataclass(frozen=True)
class Cured:
    """One increment with everything that is known of its cure. `over_middle` is one exposure from where the
    cavity opens to; `from_above_s` is what light from there alone would take, inf where it does not do."""

    portion: Portion
    inside: Scene
    mass: Composite
    contacts: Contacts
    thickness_mm: float
    least_width_mm: float
    lit: Lit
    need: Need
    exposed: Program
    over_middle: Lighting
    from_above_s: float

    @property
    def filling(self) -> Filling:
        """Return the increment as it weakens light."""
        return Filling(self.inside, curve_of(self.mass).attenuation_per_mm)

    @property
    def seconds(self) -> float:
        return sum(self.exposed.seconds)

    def is_lit_again(self, rules: Rulebook) -> bool:
        """Tell whether it is lit more than once from one place."""
        return max(self.exposed.seconds) > rules.value("light.longest_exposure_s")

    @property
    def worst_dose_j_cm2(self) -> float:
        return float(self.lit.irradiance_mw_cm2[0] @ np.array(self.exposed.full_s)) / 1000


@dataclass(frozen=True)
class Curing:
    """What is lit: increments in order of placing, the light's beam, and what stands around them."""

    beam: Beam
    around: Surroundings
    cured: Sequence[Cured]

    @property
    def weakest(self) -> Cured:
        """Return the increment with the least dose over need."""
        return min(self.cured, key=lambda one: one.worst_dose_j_cm2 / one.need.dose_j_cm2)


@dataclass(frozen=True)
class Losses:
    """Irradiance (mW/cm2) at a point from all aims: with nothing in the way, past what blocks it, and
    through what is placed as well; and what walls return on top of that."""

    open_mw_cm2: float
    past_walls_mw_cm2: float
    arriving_mw_cm2: float
    returned_mw_cm2: float


def losses_at_worst(cured: Sequence[Cured], order: int, around: Surroundings) -> Losses:
    """Return where the light is lost on its way to the weakest point of the increment at an index."""
    one = cured[order]
    around = around.at(one.portion.is_banded)
    placed = [c.filling for c in cured[: order + 1]]
    point, aims = one.lit.points[:1], one.lit.aims
    bare = Surroundings(Scene(), around.skyline, Scene(), Scene(), ())
    dark = replace(around, passing=around.passing.past_no_walls)

    def light(where: Surroundings, through: Sequence[Filling]) -> float:
        return float(sum(where.field(point, aim, through)[0] for aim in aims))

    arriving = light(dark, placed)
    return Losses(light(bare, ()), light(dark, ()), arriving, light(around, placed) - arriving)


def at_once_s(cured: Sequence[Cured], around: Surroundings) -> float:
    """Return the seconds at full output that one exposure from where the cavity opens to would take if the whole restoration
    were placed at once: by the points that are dimmest in each increment; inf where it would not do."""
    placed = [c.filling for c in cured]
    points = np.concatenate([one.over_middle.lit.points[:1] for one in cured])
    dose_mj_cm2 = 1000 * np.array([one.need.dose_j_cm2 for one in cured])
    # The tip stands as for the last portion, over the whole.
    light = around.field(points, cured[-1].over_middle.lit.aims[0], placed, COARSE)
    with np.errstate(divide="ignore"):
        return float((dose_mj_cm2 / light).max())


def lit_all_over(cured: Sequence[Cured], order: int, around: Surroundings) -> Lit:
    """Return places all over the skin of the increment at an index, the dimmest first, finely measured."""
    one = cured[order]
    placed = around.at(one.portion.is_banded).through([c.filling for c in cured[: order + 1]])
    body = body_of(one.portion.solid, one.inside)
    points = body.spread_out(MANY)
    light = each_mw_cm2(points, one.lit.aims, placed, FINE)
    first = np.argsort(light @ np.array(one.exposed.full_s), kind="stable")
    return Lit(points[first], one.lit.aims, light[first], points[first])


# So many places of a portion are listed, at least.
MANY = 240


def reasons_of(one: Cured, opens: str, rules: Rulebook) -> tuple[list[Reason], list[RuleUse]]:
    """Say why an increment is lit so long and from there, and the rules that acted; `opens` is where its cavity opens
    to."""
    longest_s, least_s = rules.value("light.longest_exposure_s"), rules.value("light.least_exposure_s")
    acting, names = [rule_of_dose(one.mass)], [aim.name for aim in one.lit.aims]
    dose_j_cm2, weakest_mw_cm2 = one.need.dose_j_cm2, one.lit.weakest_mw_cm2
    each_s = [1000 * dose_j_cm2 / weakest_mw_cm2]
    weakest = {"irradiance_mw_cm2": weakest_mw_cm2, "dose_j_cm2": dose_j_cm2, "seconds": each_s[0]}
    if any(aim.is_side for aim in one.lit.aims):
        *others, last = names
        sides = " and ".join([", ".join(others), last] if others else names)
        each_s = list(one.exposed.least_s)
        said = [say("light.by_sides", dose_j_cm2=dose_j_cm2, sides=sides, seconds=sum(each_s))]
        if math.isfinite(one.from_above_s):
            said.append(say("light.above_longer", opens=opens, above_s=one.from_above_s))
        else:
            said.append(say("light.above_dark", opens=opens))
    elif len(names) == 1:
        said = [say("light.by_dose", **weakest)]
    else:
        said = [say("light.by_halves", **weakest)]
        if not math.isfinite(one.over_middle.seconds):
            said.append(say("light.middle_dark"))
        elif one.over_middle.seconds > longest_s:
            acting.append("light.longest_exposure_s")
            said.append(say("light.middle_too_long", middle_s=one.over_middle.seconds, longest_s=longest_s))
        else:
            said.append(say("light.middle_longer", middle_s=one.over_middle.seconds))
    if one.is_lit_again(rules):
        acting += ["light.longest_exposure_s", *AGAIN]
        said.append(say("light.again", longest_s=longest_s))
    if (one.need.seconds_by_maker or 0.0) > one.need.seconds_by_dose:
        said.append(say("light.by_maker", maker_s=one.need.seconds_by_maker))
    elif min(each_s) < least_s:
        acting.append("light.least_exposure_s")
        said.append(say("light.at_least", least_s=least_s))
    if maker := one.mass.manufacturer:
        said.append(say("light.need_by_maker", dose_j_cm2=dose_j_cm2, surface_j_cm2=maker.exposure_j_cm2))
    else:
        said.append(
            say("light.need_by_factor", dose_j_cm2=dose_j_cm2, times=rules.value("light.conversion_factor"))
        )
    return said, rules.uses(
        *acting, "light.refractive_index", "light.wall_return_share", "light.wall_return_most"
    )


def spot_of(lit: Lit, access: Access) -> str:
    """Say where the weakest point lies."""
    _, y, z = lit.points[0]
    above = [aim.tip.centre[2] for aim in lit.aims if not aim.is_side]
    # A tooth has its two sides about its axis, a lesion on one of them its own about where it is lit.
    middle = 0.0 if access.side == "occlusal" else lit.aims[0].tip.centre[1]
    side = access.along_y[0 if y > middle else 1]
    return f"{side}, {above[0] - z:.1f} mm from the light tip" if above else f"{side}, lit from the side"


def as_pressed(cured: Sequence[Cured], steps: Sequence[Step], button: Button) -> list[Cured]:
    """Return increments whose exposures are what steps press, in parts or not."""

    def exposed(order: int, one: Cured) -> Program:
        presses = [p for step in steps if step.light and step.increment == order for p in step.presses]
        from_aim = [tuple(p.seconds for p in presses if p.source == aim.name) for aim in one.lit.aims]
        rungs = [Rung(sum(some), sum(map(button.full_s, some)), some) for some in from_aim]
        return Program(one.exposed.least_s, tuple(rungs))

    return [replace(one, exposed=exposed(order, one)) for order, one in enumerate(cured, 1)]
