"""What amalgam asks of a preparation: margins, bulk, walls that hold, room for a condenser, retention for lost cusps."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from mallet.cavity.boxes import SIGN
from mallet.cavity.margins import Margin, margin_of
from mallet.cavity.preparation import Cavity
from mallet.condensing.nibs import Packing, play_mm
from mallet.condensing.zones import Zone
from mallet.restoratives.amalgam.retention import judge_retention
from mallet.restoratives.amalgam.stock import Kit, asked_of
from mallet.rulebook import Rulebook
from mallet.stages.least import at_least
from mallet.stages.prepare_checks import SIDES, ridge_left_mm, ridge_rule, rooms_of
from mallet.stages.prepare_cover import NO_PROBE_TELLS_MM, thinnest_cover
from mallet.stages.prepare_cuts import has_caries
from mallet.stages.site import Site
from mallet.terms.case import Case
from mallet.terms.parts import HOLDING, OcclusalBox, ProximalBox, Wall
from mallet.terms.pieces import Point
from mallet.terms.plan import Caution, Check, StageResult, Verdict
from mallet.terms.reasons import warn, warn_by

Floats = NDArray[np.float64]
PRACTICE = "Common practice, no source"
# Steeper than this the outside of a tooth is its side.
STEEP_DEG = 60.0
# A face whose normal rises less than this is a wall.
UPRIGHT = 0.5
EDGE_SHARE = 0.04
HALF_DEG = 0.5
HELD = ("slot", "pin_hole", "retention_groove", "pulp_chamber")


@dataclass(frozen=True)
class CarvedMargin:
    """The occlusal margin once slopes are carved flat enough: the sharpest amalgam edge then (degrees), by how much the groove
    is shallower (mm), and where it is sharpest."""

    sharpest_deg: float
    shallower_mm: float
    at: Point


def judge_form(
    site: Site, kit: Kit, zones: Sequence[Zone], packings: Sequence[Packing], carved: CarvedMargin | None
) -> StageResult:
    """Return what the preparation is held against for amalgam."""
    case, cavity, rules = site.case, site.cavity, site.rules
    held = judge_retention(case, cavity, rules)
    checks = [
        *_depths(case, rules),
        *_walls(case, cavity, rules),
        *_ends(case, cavity, rules),
        *_width(case, cavity, kit, rules),
        *_zones(zones, packings, kit, rules),
        *_box_margins(cavity, rules),
        *_carved_margin(carved, rules),
        *_cover(case, cavity, rules),
        *held.checks,
    ]
    return StageResult(
        checks=checks,
        decisions=held.decisions,
        cautions=[
            *_without_box(case, cavity),
            *_unheld(case, cavity),
            *_galvanic(case),
            *_below_root(cavity),
            *_wide(case, cavity, kit, rules),
        ],
    )


def carved_margin(cavity: Cavity, rules: Rulebook) -> CarvedMargin | None:
    """Return the occlusal margin as it will be carved: where the tooth's own slope would make the amalgam thinner than is
    wanted, the slope is carved flatter. None where no margin lies on the occlusal surface."""
    if cavity.from_face or cavity.shoulder:
        return None
    margin = margin_of(cavity.filling, cavity.outer.tag, cavity.cut_tags)
    slope = _slope_deg(margin)
    margin, slope = margin.where(slope < STEEP_DEG), slope[slope < STEEP_DEG]
    if not len(margin.lengths_mm):
        return None
    natural = 180.0 - margin.tooth_deg
    flatter = np.clip(rules.value("amalgam.margin_carved_deg") - natural, 0.0, slope)
    across = np.abs(margin.middles[:, 1])
    lost = across * (np.tan(np.radians(slope)) - np.tan(np.radians(slope - flatter)))
    carved = natural + flatter
    at = _by_share(carved, margin.lengths_mm, EDGE_SHARE)
    x, y, z = (float(c) for c in margin.middles[at])
    shallower = float(np.average(lost, weights=margin.lengths_mm))
    return CarvedMargin(float(carved[at]), round(shallower, 1), Point(x=x, y=y, z=z))


def _slope_deg(margin: Margin) -> Floats:
    """Return how steep the outside of the tooth is along a margin, from level on."""
    return np.asarray(np.degrees(np.arccos(np.clip(margin.outside[:, 2], -1.0, 1.0))))


def _by_share(values: Floats, lengths: Floats, share: float) -> int:
    """Return the place up to whose value lies a share of the length, from the least on."""
    order = np.argsort(values, kind="stable")
    so_far = np.cumsum(lengths[order])
    return int(order[int(np.searchsorted(so_far, share * so_far[-1]))])


def _carved_margin(carved: CarvedMargin | None, rules: Rulebook) -> list[Check]:
    if carved is None:
        return []
    return [
        at_least(
            "prepare.amalgam_margin",
            "Amalgam edge as carved, where sharpest",
            round(carved.sharpest_deg),
            "amalgam.margin_carved_deg",
            rules,
            remedy="Incline the wall: let it converge occlusally, so that the edge is no thin flange.",
            where="occlusal margin, its slopes carved flat enough",
            unit="degrees",
            place=carved.at,
            hair=HALF_DEG,
        )
    ]


def _box_margins(cavity: Cavity, rules: Rulebook) -> list[Check]:
    """Return how the facial and lingual walls of each box meet the outer surface, halfway along them."""
    slack = 0.0 if cavity.scanned else rules.value("amalgam.margin_handbook_deg")
    low = rules.value("amalgam.margin_box_least_deg") - slack
    high = rules.value("amalgam.margin_box_most_deg") + slack
    whole = margin_of(cavity.filling, cavity.outer.tag, cavity.cut_tags) if cavity.boxes else None
    checks = []
    for box in cavity.boxes:
        assert whole
        assert box.side
        beside = (_slope_deg(whole) >= STEEP_DEG) & (np.abs(whole.wall[:, 2]) < UPRIGHT)
        margin = whole.where(beside & (whole.middles[:, 0] * SIGN[box.side] > 0))
        if not len(margin.lengths_mm):
            continue
        angles = 180.0 - margin.tooth_deg
        at = _by_share(angles, margin.lengths_mm, 0.5)
        x, y, z = (float(c) for c in margin.middles[at])
        measured = float(angles[at])
        is_thin = measured < low - HALF_DEG
        passes = low - HALF_DEG <= measured <= high + HALF_DEG
        checks.append(
            Check(
                topic=f"prepare.amalgam_wall.{box.side}",
                title=f"{box.side.capitalize()} box, walls to the outer surface",
                measured=round(measured),
                needed=low if is_thin else high,
                relation="at_least" if is_thin else "at_most",
                unit="degrees",
                verdict="pass" if passes else "caution",
                remedy=(
                    "Straighten the wall: amalgam would end in a thin edge."
                    if is_thin
                    else "Plane the wall with a hatchet until it meets the surface squarely: enamel there is undermined."
                ),
                where=f"{box.side} box, facial and lingual wall, halfway",
                rules=rules.uses(
                    "amalgam.margin_box_least_deg",
                    "amalgam.margin_box_most_deg",
                    *(["amalgam.margin_handbook_deg"] if slack else []),
                ),
                place=Point(x=x, y=y, z=z),
            )
        )
    return checks


def _depths(case: Case, rules: Rulebook) -> list[Check]:
    return [
        at_least(
            "prepare.amalgam_depth",
            "Bulk of amalgam over the pulpal floor",
            part.depth_mm,
            "amalgam.depth_mm",
            rules,
            remedy="Deepen it to half a bur head: thinner amalgam breaks.",
            where="central groove",
            otherwise="fail",
        )
        for part in case.preparation.parts
        if isinstance(part, OcclusalBox)
    ]


def _walls(case: Case, cavity: Cavity, rules: Rulebook) -> list[Check]:
    """Return whether the facial and lingual walls of the boxes hold, unless something else does."""
    boxes = [part for part in case.preparation.parts if isinstance(part, OcclusalBox | ProximalBox)]
    if not boxes or any(one.kind in HELD for one in cavity.features):
        return []
    use = rules.use("amalgam.opens_deg")
    # Of walls that open alike the first.
    walls: list[tuple[OcclusalBox | ProximalBox, Wall]] = [(part, wall) for part in boxes for wall in HOLDING]
    widest, wall = max(walls, key=lambda one: one[0].wall_deg(one[1]))
    opens = widest.wall_deg(wall)
    name = "occlusal box" if isinstance(widest, OcclusalBox) else f"{widest.side} box"
    if widest.wall_path(wall) != "wall_divergence_deg":
        name = f"{name}, {wall} wall"
    return [
        Check(
            topic="prepare.amalgam_holds",
            title="Facial and lingual walls, opening",
            measured=opens,
            needed=use.value,
            relation="at_most",
            unit="degrees",
            verdict="pass" if opens <= use.value else "caution",
            remedy="Let facial and lingual walls converge occlusally, or cut retention grooves: nothing bonds it.",
            where=name,
            rules=[use],
        )
    ]


def _ends(case: Case, cavity: Cavity, rules: Rulebook) -> list[Check]:
    """Return whether the mesial and the distal wall of the occlusal box open, where the ridge beside them is thin: enamel of a
    ridge that is hollowed out under it breaks."""
    part = next((part for part in case.preparation.parts if isinstance(part, OcclusalBox)), None)
    box = cavity.occlusal
    if part is None or box is None or cavity.shoulder:
        return []
    thin, x = ridge_rule(cavity), {"mesial": box.floor[1], "distal": box.floor[0]}
    checks = []
    for side in SIDES:
        left = ridge_left_mm(cavity, box, side)[0]
        if side in {one.side for one in cavity.boxes} or left >= rules.value(thin):
            continue
        check = at_least(
            f"prepare.amalgam_ridge.{side}",
            f"{side.capitalize()} wall under its thin ridge, opening",
            part.wall_deg(side),
            "amalgam.ridge_wall_opens_deg",
            rules,
            remedy="Let it open occlusally: dentin is to stay under the ridge.",
            where=f"occlusal box, {side} wall; {left:.1f} mm of ridge left",
            place=Point(x=x[side], y=0.0, z=box.floor_mm),
            unit="degrees",
            hair=HALF_DEG,
        )
        checks.append(check.model_copy(update={"rules": [*check.rules, *rules.uses(thin)]}))
    return checks


def _width(case: Case, cavity: Cavity, kit: Kit, rules: Rulebook) -> list[Check]:
    """Return whether the smallest nib passes at the narrowest place of the boxes; touching is tight."""
    rooms = list(rooms_of(case, cavity))
    if not rooms:
        return []
    measured, name, tool = min(rooms, key=lambda room: room[0])
    nib, free = kit.gauge_mm, rules.value("amalgam.passes_mm")
    play = measured - nib
    verdict: Verdict = "pass" if play >= free - 1e-9 else "caution" if play >= -1e-9 else "fail"
    doing = "Widen it a little" if verdict == "caution" else f"Widen it to {nib + free:.1f} mm"
    return [
        Check(
            topic="prepare.condenser",
            title=f"A {nib:g} mm condenser passes",
            measured=round(measured, 2),
            needed=round(nib + free, 2),
            relation="at_least",
            unit="mm",
            verdict=verdict,
            remedy=f"{doing}, or take a smaller nib: where none reaches, amalgam stays loose.",
            where=name,
            rules=rules.uses("amalgam.passes_mm"),
            place=Point(x=(tool.floor[0] + tool.floor[1]) / 2, y=0.0, z=tool.floor_mm),
        )
    ]


def _wide(case: Case, cavity: Cavity, kit: Kit, rules: Rulebook) -> list[Caution]:
    """Return where a cavity is wider than its condenser needs, though no caries asked for that."""
    use = rules.use("amalgam.wider_mm")
    rooms = list(rooms_of(case, cavity))
    if has_caries(case) or not rooms:
        return []
    measured, name, _ = min(rooms, key=lambda room: room[0])
    play = measured - kit.gauge_mm
    return [warn_by("note", "amalgam.wide", use, where=name, mm=play)] if play > use.value else []


def _zones(zones: Sequence[Zone], packings: Sequence[Packing], kit: Kit, rules: Rulebook) -> list[Check]:
    """Return where no nib gets to the bottom of a zone."""
    return [
        Check(
            topic=f"build.nib.{zone.id}",
            title=f"A nib gets into the {zone.name}",
            measured=round(zone.width_mm, 2),
            needed=round(min(kit.nibs_mm) + play_mm(zone, rules), 2),
            relation="at_least",
            unit="mm",
            verdict="caution" if zone.id == "hollows" else "fail",
            remedy="Widen it there, or take a smaller condenser: amalgam that is not packed stays loose.",
            where=zone.name,
            rules=rules.uses("amalgam.nib_play_mm"),
        )
        for zone, packing in zip(zones, packings, strict=True)
        if not packing.is_through
    ]


def _cover(case: Case, cavity: Cavity, rules: Rulebook) -> list[Check]:
    """Return whether every reduced cusp and groove has the thickness of the technique that wants it everywhere."""
    if asked_of(case).cover != "two_everywhere":
        return []
    checks = []
    for reduction in cavity.reductions:
        least = thinnest_cover(case, cavity, reduction)
        checks.append(
            at_least(
                "prepare.cover.everywhere",
                "Amalgam over reduced cusps, where least",
                least.over_mm,
                "amalgam.cover_everywhere_mm",
                rules,
                remedy="Deepen it there with a cylinder along the slope; probe tip, slope and every groove again.",
                where=least.where,
                place=least.at,
                hair=NO_PROBE_TELLS_MM,
            )
        )
    return checks


def _unheld(case: Case, cavity: Cavity) -> list[Caution]:
    """Return that a lesion at a neck has no walls that hold, where nothing else does."""
    if not case.is_neck or any(one.kind in HELD for one in cavity.features):
        return []
    return [warn("caution", "amalgam.face", PRACTICE)]


def _galvanic(case: Case) -> list[Caution]:
    """Return what other metal beside or opposite does."""
    where = case.findings.metal_nearby
    return [warn("note", "amalgam.galvanic", PRACTICE, where=where)] if where else []


def _below_root(cavity: Cavity) -> list[Caution]:
    """Return that canals reach below what is shown of the root, where what they hold is not counted."""
    shown = float(cavity.outer.solid.bounding_box()[2])
    chambers = (one.cut.solid.bounding_box()[2] for one in cavity.features if one.kind == "pulp_chamber")
    below = shown - min(chambers, default=shown)
    return [warn("note", "amalgam.below_root", PRACTICE, mm=below)] if below > 0.05 else []


def _without_box(case: Case, cavity: Cavity) -> list[Caution]:
    """Return that a covered tooth in contact wants a small box at each side: thin proximal amalgam breaks in carving."""
    if cavity.shoulder or not cavity.covered.issuperset(cavity.crown.cusps):
        return []
    closed = [
        side
        for side, beside in (("mesial", case.adjacent.mesial), ("distal", case.adjacent.distal))
        if beside and not beside.missing and side not in {box.side for box in cavity.boxes}
    ]
    where = " and ".join(closed)
    return [warn("caution", "amalgam.no_box", PRACTICE, where=where)] if closed else []
