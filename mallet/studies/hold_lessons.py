"""What it costs to hold the tip aslant or away: the weakest increment of a plan, its cuts as they are, lit
once more with the tip held otherwise."""

from __future__ import annotations

from dataclasses import dataclass

from mallet.curing.around import surroundings
from mallet.curing.cured import Cured
from mallet.light.aims import Hold, aims_over, hold_of
from mallet.light.cure import Body, body_of, dimmest, need_of
from mallet.light.field import Filling
from mallet.light.presses import button_of
from mallet.light.working_curve import rule_of_dose
from mallet.restoratives.worked import Worked
from mallet.rulebook import Rulebook
from mallet.terms.plan import HoldLesson

TILTS_DEG = (20.0, 45.0)
AWAY_MM = 5.0
DARK_SHARE = 1e-3


def hold_lessons(worked: Worked) -> list[HoldLesson]:
    """Return what 20 and 45 degrees, to the side where it costs most, and 5 mm of distance do to the light
    at the plan's weakest increment, and the seconds that it would take then; None where it stays dark.

    An increment lit from the sides is taken as lit from where the cavity opens to alone.
    """
    if worked.built.curing is None:
        return []
    rules = worked.rules
    cured = worked.lit.weakest
    until = 1 + next(i for i, one in enumerate(worked.lit.cured) if one is cured)
    placed = [one.filling for one in worked.lit.cured[:until]]
    portion = _Portion(worked, cured, body_of(cured.portion.solid, cured.inside), placed, rules)
    access = worked.cavity.access
    planned = hold_of(worked.case.light, access)
    straight = portion.weakest_mw_cm2(Hold(planned.distance_mm, access=access))
    lessons = []
    for tilt in TILTS_DEG:
        holds = [Hold(planned.distance_mm, tilt, lean=side, access=access) for side in planned.leans]
        light, hold = min(
            ((portion.weakest_mw_cm2(hold), hold) for hold in holds), key=lambda found: found[0]
        )
        lessons.append(portion.lesson(hold, light, straight))
    away = Hold(planned.distance_mm + AWAY_MM, access=access)
    lessons.append(portion.lesson(away, portion.weakest_mw_cm2(away), straight))
    return lessons


@dataclass(frozen=True)
class _Portion:
    """An increment as it is searched for its dimmest place, and what is placed when it is cured."""

    worked: Worked
    cured: Cured
    body: Body
    placed: list[Filling]
    rules: Rulebook

    def weakest_mw_cm2(self, hold: Hold) -> float:
        """Return the light at the dimmest point of the increment with the tip held so."""
        worked = self.worked
        beside = [worked.cavity.access.turned(neighbour.solid) for neighbour in worked.neighbours]
        around = surroundings(worked.cavity, worked.bands, beside, worked.lit.beam, self.rules, hold)
        lights = [
            dimmest(self.body, aims, around.through(self.placed), self.rules).weakest_mw_cm2
            for aims in aims_over(self.body.points, around.skyline, worked.lit.beam, hold)
        ]
        return max(lights)

    def lesson(self, hold: Hold, light: float, straight: float) -> HoldLesson:
        light = light if light > DARK_SHARE * straight else 0.0
        need = need_of(self.cured.mass, light, self.worked.lit.beam.contact_mw_cm2, self.rules)
        rung = button_of(self.worked.case.light).least(need.seconds)
        return HoldLesson(
            tip_distance_mm=hold.distance_mm,
            tip_tilt_deg=hold.tilt_deg,
            tip_lean=hold.lean,
            portion=self.cured.portion.name,
            share=round(light / straight, 3),
            seconds=rung.seconds if rung.presses else None,
            seconds_planned=self.cured.seconds,
            rules=self.rules.uses(rule_of_dose(self.cured.mass), "light.least_exposure_s"),
        )
