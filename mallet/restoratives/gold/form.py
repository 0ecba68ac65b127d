"""What direct gold asks of a preparation: just into dentin, points and groove, a bevel, dentin over the pulp, a curve that a
bur fits."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from mallet.cavity.gold_pit import tightest_mm
from mallet.cavity.margins import Margin, margin_of
from mallet.restoratives.gold.shape import Shape
from mallet.rulebook import Rulebook
from mallet.stages.least import HAIR_MM, at_least
from mallet.stages.site import Site
from mallet.terms.case import Case
from mallet.terms.parts import GoldPit, ProximalCavity
from mallet.terms.pieces import Point
from mallet.terms.plan import Caution, Check, Decision, StageResult
from mallet.terms.reasons import refuse, say, warn, warn_by
from mallet.terms.stock import Bur

PRACTICE = "Common practice, no source"
HALF_DEG = 0.5
MIDDLE_SHARE = 0.5


def gate(case: Case, shape: Shape, rules: Rulebook) -> None:
    """Raise NotFeasible for a loose or tender tooth, and where caries lies deeper than the axial wall."""
    findings = case.findings
    if findings.tooth_firm == "loose":
        raise refuse("gold.loose")
    if findings.percussion == "tender" or findings.pain == "on_biting":
        raise refuse("gold.tender")
    caries, most = findings.caries_past_junction_mm, rules.value("gold.into_most_mm")
    if caries is not None and caries > shape.into_mm + HAIR_MM:
        if caries > most:
            raise refuse("gold.caries_deep", caries_mm=caries, most_mm=most)
        given = float(getattr(shape.part, shape.path.rpartition(".")[2]))
        nearest: dict[str, object] = {shape.path: round(given + caries - shape.into_mm, 2)}
        raise refuse("gold.caries_past_wall", nearest, caries_mm=caries)


def judge_form(site: Site, shape: Shape, depths_mm: tuple[float, float] | None) -> StageResult:
    """Return what the preparation is held against for direct gold; depths are those at the upper and lower end of a pit."""
    case, rules = site.case, site.rules
    bur = [_bur(case, shape.part)] if isinstance(shape.part, GoldPit) else []
    return StageResult(
        decisions=[_depth(shape, depths_mm, rules), *bur],
        checks=[
            *_into(shape, rules),
            *_held(shape, rules),
            *_bevel(shape, rules),
            *_metal(site, rules),
            *_pulp(site, rules),
        ],
        cautions=[*_young(case, rules), *_stained(case)],
    )


def _depth(shape: Shape, depths_mm: tuple[float, float] | None, rules: Rulebook) -> Decision:
    part, ends = shape.part, shape.ends
    if depths_mm:
        upper, lower = depths_mm
        chosen = f"{upper:.1f} mm deep at its {ends.upper} end, {lower:.1f} at its {ends.lower} one"
        reason = say("gold.depth", into_mm=shape.into_mm)
    else:
        assert isinstance(part, ProximalCavity)
        chosen = f"{part.depth_mm:g} mm deep beside the contact, {shape.into_mm:.1f} of it in dentin"
        reason = say("gold.depth_beside")
    return Decision(
        topic="prepare.depth",
        chosen=chosen,
        alternatives=[],
        reasons=[reason],
        rules=rules.uses("tooth.enamel_groove_mm", "tooth.enamel_contact_mm"),
    )


def _bur(case: Case, part: GoldPit) -> Decision:
    """Return the round finishing bur for the tightest curve of the outline: not wider than the curve."""
    most = 2 * tightest_mm(part)
    burs = [
        one for one in case.stock if isinstance(one, Bur) and one.shape == "round" and one.head_mm <= most
    ]
    fits = max(burs, key=lambda one: (one.head_mm, one.name), default=None)
    name = f"{fits.name}, {fits.head_mm:g} mm" if fits else f"round bur of at most {most:.1f} mm"
    return Decision(
        topic="prepare.bur", chosen=name, alternatives=[], reasons=[say("gold.curve", radius_mm=most / 2)]
    )


def _between(
    topic: str,
    title: str,
    measured: float,
    ends: tuple[str, str],
    rules: Rulebook,
    remedies: tuple[str, str],
    where: str,
) -> Check:
    """Return the check that a length lies between the values of two rules; remedies for too little and too much."""
    least, most = (rules.value(rule) for rule in ends)
    is_less = measured < least - HAIR_MM
    is_amiss = is_less or measured > most + HAIR_MM
    return Check(
        topic=topic,
        title=title,
        measured=round(measured, 2),
        needed=least if is_less else most,
        relation="at_least" if is_less else "at_most",
        unit="mm",
        verdict="caution" if is_amiss else "pass",
        remedy=remedies[0] if is_less else remedies[1],
        where=where,
        rules=rules.uses(*ends),
    )


def _into(shape: Shape, rules: Rulebook) -> list[Check]:
    return [
        _between(
            "prepare.gold_into", "Axial wall past the junction", shape.into_mm,
            ("gold.into_least_mm", "gold.into_most_mm"), rules,
            ("Deepen it: what holds the gold wants dentin.", "Go no deeper: malleted gold wants dentin over the pulp."), "axial wall",
        )
    ]  # fmt: skip


def _held(shape: Shape, rules: Rulebook) -> list[Check]:
    """Return whether points hold the gold, and the groove that a pit has."""
    points = [
        _between(
            "prepare.gold_points", "Starting points", shape.point_mm,
            ("gold.point_least_mm", "gold.point_most_mm"), rules,
            ("Deepen the points: gold that is not locked rocks.", "Keep them shallower: the pulp is near."), "three points",
        )
    ]  # fmt: skip
    if shape.is_beside:
        return points
    return [
        *points,
        at_least(
            "prepare.gold_groove",
            "Groove round the foot of the wall",
            shape.groove_mm,
            "gold.groove_least_mm",
            rules,
            remedy="Run the inverted cone all round: the groove holds what the points started.",
            where="foot of the axial wall",
        ),
    ]


def _bevel(shape: Shape, rules: Rulebook) -> list[Check]:
    return [
        _between(
            "prepare.gold_bevel", "Bevel of the margin", shape.bevel_mm,
            ("gold.bevel_least_mm", "gold.bevel_most_mm"), rules,
            ("Bevel it all round: the gold's edge is burnished thin over it.", "Keep it narrower: a wide thin edge peels."), "margin",
        )
    ]  # fmt: skip


def _metal(site: Site, rules: Rulebook) -> list[Check]:
    """Return the angle of the gold's edge, as its solid has it: what bevel and surface leave of the half turn."""
    cavity = site.cavity
    margin = margin_of(cavity.filling, cavity.outer.tag, cavity.cut_tags)
    if not len(margin.lengths_mm):
        return []
    metal = 180.0 - margin.tooth_deg
    at = _by_share(metal, margin)
    slack = 0.0 if cavity.scanned else rules.value("gold.metal_handbook_deg")
    low, high = rules.value("gold.metal_least_deg") - slack, rules.value("gold.metal_most_deg") + slack
    measured = float(metal[at])
    is_thin = measured < low - HALF_DEG
    x, y, z = (float(c) for c in cavity.access.points_in_tooth(margin.middles[[at]])[0])
    return [
        Check(
            topic="prepare.gold_metal",
            title="Edge of the gold",
            measured=round(measured),
            needed=low if is_thin else high,
            relation="at_least" if is_thin else "at_most",
            unit="degrees",
            verdict="caution" if is_thin or measured > high + HALF_DEG else "pass",
            remedy=(
                "Bevel less flat: a thinner edge tears."
                if is_thin
                else "Bevel to 45 degrees: a blunt edge is not burnished down."
            ),
            where="margin, halfway between its sharpest and its bluntest",
            rules=rules.uses(
                "gold.metal_least_deg", "gold.metal_most_deg", *(["gold.metal_handbook_deg"] if slack else [])
            ),
            place=Point(x=x, y=y, z=z),
        )
    ]


def _by_share(values: np.ndarray, margin: Margin) -> int:
    """Return the place up to whose value lies half the margin's length."""
    order = np.argsort(values, kind="stable")
    so_far = np.cumsum(margin.lengths_mm[order])
    return int(order[int(np.searchsorted(so_far, MIDDLE_SHARE * so_far[-1]))])


def _pulp(site: Site, rules: Rulebook) -> Sequence[Check]:
    """Return the dentin under the gold, since it is malleted; by the handbook's pulp alone nothing fails."""
    cavity = site.cavity
    if not cavity.pulp:
        return []
    left, least = cavity.remaining_dentin_mm, rules.value("gold.pulp_least_mm")
    is_too_near = site.case.preparation.remaining_dentin_mm is not None and left < least
    check = at_least(
        "prepare.gold_pulp",
        "Dentin under the mallet",
        left,
        "gold.pulp_mm",
        rules,
        remedy=(
            "Choose another restorative: the mallet would drive on the pulp."
            if is_too_near
            else "Light blows, and measure on the radiograph: the pulp lies close under the mallet."
        ),
        where="axial wall toward the pulp",
        otherwise="fail" if is_too_near else "caution",
    )
    return [check.model_copy(update={"rules": [*check.rules, *rules.uses("gold.pulp_least_mm")]})]


def _young(case: Case, rules: Rulebook) -> list[Caution]:
    use, age = rules.use("gold.young_years"), case.patient.age_years
    if age is None or age > use.value or not case.has_living_pulp:
        return []
    return [warn_by("caution", "gold.young", use, age=age)]


def _stained(case: Case) -> list[Caution]:
    return [warn("note", "gold.stained", PRACTICE)] if case.findings.stained_groove_left else []
