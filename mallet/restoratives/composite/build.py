"""Building composite: increments by a technique, each with its seconds under the light."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from mallet.cavity.preparation import Cavity
from mallet.curing.around import Surroundings
from mallet.curing.cured import Cured, Portion, losses_at_worst, spot_of
from mallet.curing.portions import cure_portions, in_place_s
from mallet.light.beam import Beam
from mallet.light.presses import Button, button_of
from mallet.light.working_curve import rule_of_dose
from mallet.restoratives.composite.block import Layering, Limits
from mallet.restoratives.composite.bottom import bottom_of
from mallet.restoratives.composite.layering import SCHOOL_NAMES, layer, names_for
from mallet.rulebook import Rulebook
from mallet.stages.choose import shows
from mallet.terms.case import Case
from mallet.terms.pieces import Reason
from mallet.terms.plan import Caution, Check, Decision, StageResult, Step, Want
from mallet.terms.reasons import refuse, say, warn, warn_by
from mallet.terms.restoration import Composite, Consistency, ShadeRole

THINNER = 0.82
MARGIN = 1.03
PRACTICE = "Common practice, no source"
SLACK_MM = 5e-3
# A stronger lamp than any reading may tell of is no advice.
MOST_OUTPUT_MW_CM2 = 10000.0


@dataclass(frozen=True)
class Build:
    """The increments in order, the layering behind them, how thick each role was allowed to be and how thick its composite may
    be laid; `bead` is a flowable that the first is pressed into, both cured at once."""

    layering: Layering
    cured: list[Cured]
    limits: Limits
    asked: Limits
    reasons: list[Reason]
    bead: Composite | None = None
    tint: Composite | None = None

    @property
    def banded(self) -> int:
        """Return how many increments are placed while the bands stand."""
        return sum(portion.is_banded for portion in self.layering.portions)

    @property
    def thinned(self) -> list[ShadeRole]:
        """Return the roles of increments that are thinner than their composites allow."""
        placed = {one.portion.role for one in self.cured}
        return [role for role in ROLES if role in placed and self.limits[role] < self.asked[role]]


ROLES: tuple[ShadeRole, ...] = ("dentin", "body", "enamel")


def build_composite(case: Case, cavity: Cavity, around: Surroundings, beam: Beam, rules: Rulebook) -> Build:
    """Return the increments of the asked technique. Those of a role are cut thinner until each cures in one exposure from a
    place; in several, where they would have to be cut thinner than any is laid out of habit.

    Raises NotFeasible where even the thinnest increment would need too long.
    """
    asked, tilt = limits_of(case, cavity), case.light.tip_tilt_deg
    once_s, again_s = rules.value("light.longest_exposure_s"), in_place_s(rules)
    thin_mm, least_mm = rules.value("composite.thin_layer_mm"), rules.value("composite.least_portion_mm")
    is_surely_too_dark = bottom_of(case, cavity, mass_for(case.composites, "body"), around, beam, rules)
    # Light goes aslant through a layer, and no way along it may be longer than its composite allows.
    limits = {role: mm * math.cos(math.radians(tilt)) for role, mm in asked.items()}
    core: ShadeRole = "dentin" if shows(case) else "body"
    # No cut makes a manufacturer's time shorter: such a role is lit in turns.
    again: set[ShadeRole] = set()

    def longest_s(role: ShadeRole) -> float:
        return again_s if role in again or limits[role] * THINNER < thin_mm else once_s

    def can_thin(role: ShadeRole) -> bool:
        return limits[role] * THINNER >= least_mm

    def is_slow(one: Cured) -> bool:
        longest = longest_s(one.portion.role)
        return max(one.exposed.least_s) > longest + 1e-9 or max(one.exposed.seconds) > longest

    while True:
        if can_thin("body") and is_surely_too_dark(limits["body"], longest_s("body")):
            limits["body"] *= THINNER
            continue
        layering = layer(case.composite, cavity, limits, rules, core)
        masses = [mass_of(case.composites, portion) for portion in layering.portions]
        each_s = [longest_s(portion.role) for portion in layering.portions]
        # With one that is too slow and may still be cut thinner there is no need to light the rest.
        cured = []
        for one in cure_portions(case, cavity, layering.portions, masses, around, beam, rules, each_s):
            cured.append(one)
            if can_thin(one.portion.role) and is_slow(one):
                break
        if slow := [one for one in cured if is_slow(one)]:
            worst = max(slow, key=lambda c: c.need.seconds)
            role, by_maker_s = worst.portion.role, worst.need.seconds_by_maker or 0.0
            if by_maker_s > again_s or not can_thin(role):
                raise _too_long(worst, cured, around, limits[role], button_of(case.light), beam, rules)
            if by_maker_s > once_s and role not in again:
                again.add(role)
            else:
                limits[role] *= THINNER
        elif over := {
            c.portion.role for c in cured if tilt and c.thickness_mm > c.mass.max_increment_mm + SLACK_MM
        }:
            # A slope that faces away from the tip makes the way longer than the tilt alone does.
            for role in over:
                limits[role] *= THINNER
                if limits[role] < least_mm:
                    straight: dict[str, object] = {"restoration.light.tip_tilt_deg": 0}
                    raise refuse("cure.too_aslant", straight, tilt_deg=tilt, asked_mm=asked[role])
        else:
            break
    build = Build(layering, cured, limits, asked, [], _bead(case, layering), _tint(case, cured))
    reasons = [*layering.reasons, *_why_thinner(build, tilt, rules), say("layering.stress")]
    return replace(build, reasons=reasons)


def limits_of(case: Case, cavity: Cavity) -> dict[ShadeRole, float]:
    """Return how thick an increment of each role may be by what its composite's manufacturer allows."""
    masses = case.composites
    if case.composite.technique == "bulk" and not (cavity.from_face or cavity.stump):
        return dict.fromkeys(ROLES, bulk_mass(masses).max_increment_mm)
    return {role: mass_for(masses, role).max_increment_mm for role in ROLES}


def _bead(case: Case, layering: Layering) -> Composite | None:
    """Return the flowable that a bulk increment is pressed into; none where one has covered the floors already."""
    parts = {portion.part for portion in layering.portions}
    flowing = [mass for mass in case.composites if mass.consistency in FLOWING]
    return mass_for(flowing, "body") if flowing and "bulk" in parts and "floor" not in parts else None


def _tint(case: Case, cured: Sequence[Cured]) -> Composite | None:
    """Return the tint that lies under the last increment; none where there is nothing below that to put it on."""
    tints = sorted(
        (mass for mass in case.composites if mass.consistency == "stain"), key=lambda mass: mass.name
    )
    return tints[0] if tints and len(cured) > 1 else None


def _why_thinner(build: Build, tilt_deg: float, rules: Rulebook) -> list[Reason]:
    """Say why layers are cut thinner than the composites allow, where they are: roles that are alike together."""
    alike: dict[tuple[float, float], list[ShadeRole]] = {}
    for role in build.thinned:
        alike.setdefault((build.limits[role], build.asked[role]), []).append(role)
    once_s, times = rules.value("light.longest_exposure_s"), rules.value("light.exposures_in_place")
    said = []
    for (limit_mm, asked_mm), roles in alike.items():
        told = {"limit_mm": limit_mm, "asked_mm": asked_mm, "shade": " and ".join(roles)}
        if tilt_deg:
            said.append(say("layering.aslant", **told, tilt_deg=tilt_deg))
        elif limit_mm < rules.value("composite.thin_layer_mm") and times > 1:
            said.append(say("layering.thinned_again", **told, longest_s=once_s, times=times))
        else:
            said.append(say("layering.thinned", **told, longest_s=once_s))
    return said


def mass_for(masses: Sequence[Composite], role: ShadeRole) -> Composite:
    """Return the composite for a role; where there is none of it the body shade, else any. Their order decides nothing:
    a paste comes before what flows, then the name."""
    return min(masses, key=lambda mass: (*_apart_from(mass, role), mass.name))


def mass_of(masses: Sequence[Composite], portion: Portion) -> Composite:
    """Return the composite for an increment: what flows on floors, where there is any, and in bulk what may be laid thickest."""
    if portion.part == "bulk":
        return bulk_mass(masses)
    flowing = [mass for mass in masses if mass.consistency in FLOWING]
    return mass_for(flowing if portion.part == "floor" and flowing else masses, portion.role)


def bulk_mass(masses: Sequence[Composite]) -> Composite:
    """Return the composite that may be laid thickest; a paste before what flows."""
    return min(
        masses,
        key=lambda mass: (CONSISTENCIES.index(mass.consistency), -mass.max_increment_mm, mass.name),
    )


FLOWING: tuple[Consistency, ...] = ("flowable", "injectable")
CONSISTENCIES: tuple[Consistency, ...] = ("paste", "injectable", "flowable", "stain")


def _apart_from(mass: Composite, role: ShadeRole) -> tuple[bool, int, bool]:
    """Return how far a composite is from what a wall or a form wants: by its role, and by how it flows."""
    is_stain = mass.consistency == "stain"
    by_role = 0 if mass.role == role else 1 if mass.role == "body" else 2
    return is_stain, by_role, CONSISTENCIES.index(mass.consistency) > 0


def not_placed(case: Case, build: Build) -> list[Caution]:
    """Return which of the chosen composites are not placed anywhere."""
    placed = {cured.mass.name for cured in build.cured} | {
        one.name for one in (build.bead, build.tint) if one
    }
    return [
        warn("note", "build.not_placed", "The plan itself", name=mass.name)
        for mass in sorted(case.composites, key=lambda mass: mass.name)
        if mass.name not in placed
    ]


def _tinted(build: Build) -> list[Caution]:
    return [warn("note", "build.tinted", PRACTICE)] if build.tint else []


def unsuited(build: Build, rules: Rulebook) -> list[Caution]:
    """Return which of the chosen composites are not what they are placed for: floors of paste, bulk of a composite that may
    not be laid thick, a margin between teeth of one that a radiograph hardly shows."""
    found: list[Caution] = []
    floors = [one for one in build.cured if one.portion.part == "floor"]
    if floors and floors[0].mass.consistency not in FLOWING:
        found.append(warn("caution", "layering.no_flowable", PRACTICE, name=floors[0].mass.name))
    opaque = rules.use("composite.radiopaque_mm_al")
    faint = {
        one.mass.name: one.mass.radiopacity_mm_al
        for one in build.cured
        if one.portion.side and one.mass.radiopacity_mm_al is not None
        if one.mass.radiopacity_mm_al < opaque.value
    }
    found += [
        warn_by("note", "build.faint", opaque, name=name, seen_mm_al=seen)
        for name, seen in sorted(faint.items())
    ]
    bulk, least = (
        [one for one in build.cured if one.portion.part == "bulk"],
        rules.use("composite.bulk_from_mm"),
    )
    if bulk and bulk[0].mass.max_increment_mm < least.value:
        told = {"name": bulk[0].mass.name, "limit_mm": bulk[0].mass.max_increment_mm}
        found.append(warn_by("caution", "layering.not_for_bulk", least, **told))
    return found


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


def built_stage(
    case: Case, cavity: Cavity, build: Build, steps: Sequence[Step], under: StageResult, rules: Rulebook
) -> StageResult:
    """Return what building adds to a plan, with its steps, after what lies under it; its checks come once those are in
    order."""
    return StageResult(
        decisions=[*under.decisions, _layering(build, cavity), *ambiguous(case, build)],
        cautions=[*under.cautions, *unsuited(build, rules), *not_placed(case, build), *_tinted(build)],
        wants=[*under.wants, *_masses_wanted(build)],
        assumptions=under.assumptions,
        steps=[*under.steps, *steps],
    )


def _layering(build: Build, cavity: Cavity) -> Decision:
    chosen, names = build.layering.school, names_for(cavity)
    others = [name for school, name in names.items() if school != chosen]
    return Decision(
        topic="build.layering",
        chosen=names.get(chosen, SCHOOL_NAMES[chosen]),
        alternatives=others,
        reasons=build.reasons,
    )


def portion_checks(cured: Sequence[Cured], rules: Rulebook) -> list[Check]:
    """Return what increments are held against: how thick they are, and what their weakest point gets."""
    thickest = max(cured, key=lambda c: c.thickness_mm / c.mass.max_increment_mm)
    limit = thickest.mass.max_increment_mm
    worst = min(cured, key=lambda c: c.worst_dose_j_cm2 / c.need.dose_j_cm2)
    dose, need = worst.worst_dose_j_cm2, worst.need.dose_j_cm2
    return [
        Check(
            topic="increment.thickness",
            title="Thickest increment for its composite, along the light",
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
    placed = [*(c.mass for c in build.cured), *(one for one in (build.bead, build.tint) if one)]
    masses = {mass.name: mass for mass in placed}
    return [
        Want(kind="mass", text=f"{mass.role} composite", name=mass.name, lot=mass.lot)
        for mass in masses.values()
    ]
