"""Building composite: increments by a technique, each with its seconds under the light."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from mallet.cavity.preparation import Cavity
from mallet.curing.around import Surroundings
from mallet.curing.cured import Cured, losses_at_worst, spot_of
from mallet.curing.portions import cure_portions, in_place_s
from mallet.light.beam import Beam
from mallet.light.presses import Button, button_of
from mallet.light.working_curve import rule_of_dose
from mallet.restoratives.composite.block import Layering
from mallet.restoratives.composite.bottom import bottom_of
from mallet.restoratives.composite.layering import SCHOOL_NAMES, layer
from mallet.rulebook import Rulebook
from mallet.terms.case import Case
from mallet.terms.pieces import Reason
from mallet.terms.plan import Caution, Check, Decision, StageResult, Step, Want
from mallet.terms.reasons import refuse, say, warn
from mallet.terms.restoration import Composite, Consistency, ShadeRole

THINNER = 0.82
MARGIN = 1.03
SLACK_MM = 5e-3
# A stronger lamp than any reading may tell of is no advice.
MOST_OUTPUT_MW_CM2 = 10000.0


@dataclass(frozen=True)
class Build:
    """The increments in order, the layering behind them and the thickest increment that was allowed."""

    layering: Layering
    cured: list[Cured]
    limit_mm: float
    asked_mm: float
    reasons: list[Reason]


def build_composite(case: Case, cavity: Cavity, around: Surroundings, beam: Beam, rules: Rulebook) -> Build:
    """Return the increments of the asked technique, cut thinner until each cures in one exposure from a place; in several,
    where it would have to be cut thinner than any is laid out of habit.

    Raises NotFeasible where even the thinnest increment would need too long.
    """
    asked = min(mass.max_increment_mm for mass in case.composites)
    once_s, thin_mm = rules.value("light.longest_exposure_s"), rules.value("composite.thin_layer_mm")
    limit, is_again = asked, False
    is_surely_too_dark = bottom_of(case, cavity, mass_for(case.composites, "body"), around, beam, rules)
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
        layering = layer(case.composite.technique, cavity, limit, rules)
        masses = [mass_for(case.composites, portion.role) for portion in layering.portions]
        # With one that is too slow and may still be cut thinner there is no need to light the rest.
        cured = []
        for one in cure_portions(case, cavity, layering.portions, masses, around, beam, rules, longest):
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
                straight: dict[str, object] = {"restoration.light.tip_tilt_deg": 0}
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
    thinner = _why_thinner(limit, asked, tilt, rules)
    return Build(layering, cured, limit, asked, [*layering.reasons, *thinner, say("layering.stress")])


def _why_thinner(limit_mm: float, asked_mm: float, tilt_deg: float, rules: Rulebook) -> list[Reason]:
    """Say why layers are cut thinner than the composites allow, where they are."""
    if tilt_deg:
        return [say("layering.aslant", limit_mm=limit_mm, asked_mm=asked_mm, tilt_deg=tilt_deg)]
    if limit_mm >= asked_mm:
        return []
    once_s, times = rules.value("light.longest_exposure_s"), rules.value("light.exposures_in_place")
    cut: dict[str, float] = {"limit_mm": limit_mm, "asked_mm": asked_mm, "longest_s": once_s}
    if limit_mm < rules.value("composite.thin_layer_mm") and times > 1:
        return [say("layering.thinned_again", **cut, times=times)]
    return [say("layering.thinned", **cut)]


def mass_for(masses: Sequence[Composite], role: ShadeRole) -> Composite:
    """Return the composite for a role; where there is none of it the body shade, else any. Their order decides nothing:
    a paste comes before what flows, then the name."""
    return min(masses, key=lambda mass: (*_apart_from(mass, role), mass.name))


CONSISTENCIES: tuple[Consistency, ...] = ("paste", "injectable", "flowable", "stain")


def _apart_from(mass: Composite, role: ShadeRole) -> tuple[bool, int, bool]:
    """Return how far a composite is from what a wall or a form wants: by its role, and by how it flows."""
    is_stain = mass.consistency == "stain"
    by_role = 0 if mass.role == role else 1 if mass.role == "body" else 2
    return is_stain, by_role, CONSISTENCIES.index(mass.consistency) > 0


def not_placed(case: Case, build: Build) -> list[Caution]:
    """Return which of the chosen composites are not placed anywhere."""
    placed = {cured.mass.name for cured in build.cured}
    return [
        warn("note", "build.not_placed", "The plan itself", name=mass.name)
        for mass in sorted(case.composites, key=lambda mass: mass.name)
        if mass.name not in placed
    ]


def ambiguous(case: Case, build: Build) -> list[Decision]:
    """Return each choice among composites of one role and consistency that only their names decided."""
    found = []
    for name in sorted({cured.mass.name for cured in build.cured}):
        taken = next(mass for mass in case.composites if mass.name == name)
        like = [m.name for m in case.composites if (m.role, m.consistency) == (taken.role, taken.consistency)]
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
    """Return the refusal: which point holds it up and why, and the curing light output that would do for the same
    increment."""
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


def built_stage(case: Case, build: Build, steps: Sequence[Step], under: StageResult) -> StageResult:
    """Return what building adds to a plan, with its steps, after what lies under it; its checks come once those are in
    order."""
    return StageResult(
        decisions=[*under.decisions, _layering(build), *ambiguous(case, build)],
        cautions=[*under.cautions, *not_placed(case, build)],
        wants=[*under.wants, *_masses_wanted(build)],
        assumptions=under.assumptions,
        steps=[*under.steps, *steps],
    )


def _layering(build: Build) -> Decision:
    chosen = build.layering.school
    others = [name for school, name in SCHOOL_NAMES.items() if school != chosen]
    return Decision(
        topic="build.layering", chosen=SCHOOL_NAMES[chosen], alternatives=others, reasons=build.reasons
    )


def portion_checks(cured: Sequence[Cured], rules: Rulebook) -> list[Check]:
    """Return what increments are held against: how thick they are, and what their weakest point gets."""
    thickest = max(cured, key=lambda c: c.thickness_mm)
    limit = thickest.mass.max_increment_mm
    worst = min(cured, key=lambda c: c.worst_dose_j_cm2 / c.need.dose_j_cm2)
    dose, need = worst.worst_dose_j_cm2, worst.need.dose_j_cm2
    return [
        Check(
            topic="increment.thickness",
            title="Thickest increment along the light",
            measured=round(thickest.thickness_mm, 2),
            needed=limit,
            relation="at_most",
            unit="mm",
            verdict="pass" if thickest.thickness_mm <= limit + 5e-3 else "fail",
            remedy="Cut it thinner.",
            where=thickest.portion.name,
        ),
        Check(
            topic="increment.dose",
            title="Least exposed increment",
            measured=round(dose, 3),
            needed=round(need, 3),
            relation="at_least",
            unit="J/cm2",
            verdict="pass" if dose >= need - 1e-9 else "fail",
            remedy="Light it longer, or cut it thinner.",
            where=worst.portion.name,
            rules=rules.uses(rule_of_dose(worst.mass)),
        ),
    ]


def _masses_wanted(build: Build) -> list[Want]:
    masses = {c.mass.name: c.mass for c in build.cured}
    return [
        Want(kind="mass", text=f"{mass.role} composite", name=mass.name, lot=mass.lot)
        for mass in masses.values()
    ]
