"""What a preparation is held against: room for instruments, strength of what is left."""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence

import numpy as np

from mallet.cavity.measures import topmost_mm
from mallet.cavity.neighbours import Beside
from mallet.cavity.preparation import Cavity, box_middle_mm
from mallet.cavity.tool import Tool
from mallet.rulebook import Rulebook
from mallet.stages.least import at_least
from mallet.stages.prepare_cover import cover_checks
from mallet.stages.prepare_grooves import groove_checks
from mallet.terms.case import Case
from mallet.terms.parts import OcclusalBox, ProximalBox, Side
from mallet.terms.pieces import Point
from mallet.terms.plan import Check, Decision, Verdict
from mallet.terms.reasons import say

SIDES: tuple[Side, ...] = ("mesial", "distal")


def checks_of(case: Case, cavity: Cavity, neighbours: Sequence[Beside], rules: Rulebook) -> list[Check]:
    """Return what a preparation is held against; each names the place, and what mends it."""
    if cavity.from_face:
        return _wall_left(cavity, cavity.from_face, rules)
    if cavity.stump:
        return []
    checks = [
        # What is condensed asks for room by its own nibs.
        *([] if case.restoration.is_condensed else _condenser(case, cavity, rules)),
        *_isthmus(cavity, rules),
        *_cusps(cavity, rules),
        *_walls(cavity, rules),
        *_ridges(cavity, rules),
        *groove_checks(cavity, rules),
    ]
    checks += [
        _contact(cavity, box, beside, rules) for beside in neighbours if (box := cavity.box(beside.side))
    ]
    for reduction in cavity.reductions:
        checks += cover_checks(case, cavity, reduction, rules)
    return checks


def _wall_left(cavity: Cavity, tool: Tool, rules: Rulebook) -> list[Check]:
    """Return how thick the wall is that a cavity beside the contact leaves on the other face, where thinnest."""
    if tool.kind != "proximal_cavity" or tool.is_through:
        return []
    x0, x1, y0, y1 = tool.floor
    # Towards the contact it thins out anyhow: its inner half counts.
    axial = x0 if "mesial" in tool.beside else x1
    across = np.linspace(axial, (x0 + x1) / 2, 5)
    grid = np.stack(np.meshgrid(across, np.linspace(y0, y1, 9)), axis=-1).reshape(-1, 2)
    low = topmost_mm(cavity.outer.solid, grid)[:, 0]
    left = tool.floor_mm - low
    # Beyond the edge there is no wall.
    left[np.isnan(left)] = np.inf
    least = int(left.argmin())
    other = "facial" if cavity.access.side == "lingual" else "lingual"
    x, y, z = cavity.access.points_in_tooth(np.array([[*grid[least], tool.floor_mm]]))[0]
    # Where the cavity has gone through there is no wall to mask.
    is_gone = float(left[least]) <= 0
    return [
        at_least(
            "prepare.front_wall",
            f"{other.capitalize()} wall left",
            float(left[least]),
            "prepare.front_wall_mm",
            rules,
            remedy=(
                "Measure again, or plan it through and through: nothing of the wall is left."
                if is_gone
                else "Mask it, or enter from the other face too: it may show through or break."
            ),
            where=f"{tool.beside[0]} {other} wall",
            place=Point(x=float(x), y=float(y), z=float(z)),
            otherwise="fail" if is_gone else "caution",
        )
    ]


def gauge(case: Case, rules: Rulebook) -> list[Decision]:
    """Return each depth of a box in lengths of the cutting head that gauges it."""
    head = rules.value("prepare.head_mm")
    told = []
    for part in case.preparation.parts:
        if isinstance(part, OcclusalBox):
            told.append(f"pulpal floor {part.depth_mm / head:.1f}")
        if isinstance(part, ProximalBox):
            told.append(f"{part.side} box {part.height_mm / head:.1f}")
    if not told:
        return []
    return [
        Decision(
            topic="prepare.gauge",
            chosen=f"depth in {head:g} mm bur-head lengths: {', '.join(told)}",
            alternatives=[],
            reasons=[say("prepare.gauge", head_mm=head)],
            rules=rules.uses("prepare.head_mm"),
        )
    ]


def _condenser(case: Case, cavity: Cavity, rules: Rulebook) -> list[Check]:
    """Return whether the smallest placing instrument passes at the narrowest place of the boxes."""
    rooms = list(rooms_of(case, cavity))
    if not rooms:
        return []
    measured, name, tool = min(rooms, key=lambda room: room[0])
    needed = rules.value("prepare.condenser_mm")
    x = (tool.floor[0] + tool.floor[1]) / 2 if tool.side is None else box_middle_mm(cavity, tool)
    return [
        at_least(
            "prepare.condenser",
            f"A {needed:g} mm placing instrument passes",
            measured,
            "prepare.condenser_mm",
            rules,
            remedy=f"Inject a flowable there, or widen it to {needed:g} mm.",
            where=name,
            place=Point(x=x, y=0.0, z=tool.floor_mm),
        )
    ]


def rooms_of(case: Case, cavity: Cavity) -> Iterator[tuple[float, str, Tool]]:
    """Yield how wide the parts are where they are narrowest, what that is called, and the part."""
    for tool in cavity.tools:
        part = case.preparation.parts[tool.index]
        # Walls that converge are narrowest at the top.
        if isinstance(part, OcclusalBox):
            narrower = _narrower(tool) * part.depth_mm
            yield part.width_mm + narrower, "isthmus of the occlusal box", tool
        if isinstance(part, ProximalBox):
            narrower = _narrower(tool) * part.height_mm
            yield part.width_mm + narrower, f"{part.side} box, faciolingually", tool
            yield part.axial_depth_mm, f"{part.side} box, from axial wall to surface", tool


def _narrower(tool: Tool) -> float:
    """Return by how much facial and lingual walls come nearer to each other a mm of height; nothing where they open."""
    return min(tool.slopes[2] + tool.slopes[3], 0.0)


def _isthmus(cavity: Cavity, rules: Rulebook) -> list[Check]:
    """Return the isthmus's share of the distance between the tips that stand nearest to its middle: the
    strength goes by it."""
    box = cavity.occlusal
    facial, lingual = _rows(cavity)
    if box is None or not (facial.keys() - cavity.covered and lingual.keys() - cavity.covered):
        return []
    x = (box.floor[0] + box.floor[1]) / 2
    tips = cavity.crown.cusps
    between = sum(row[min(row, key=lambda cusp: abs(tips[cusp][0] - x))] for row in (facial, lingual))
    share = 2 * _half_mm(cavity, box) / between
    keeps = rules.value("prepare.isthmus_keeps_share")
    loses = rules.value("prepare.isthmus_loses_share")
    return [
        Check(
            topic="prepare.isthmus",
            title="Isthmus",
            measured=round(share, 2),
            needed=loses,
            relation="at_most",
            unit="of the intercuspal distance",
            verdict="pass" if share <= loses else "caution",
            remedy=f"Up to {keeps:g} keeps the strength: no wider than the lesion, or cover the cusps.",
            where=f"{between:.1f} mm between the cusp tips",
            rules=rules.uses("prepare.isthmus_loses_share", "prepare.isthmus_keeps_share"),
            place=Point(x=x, y=0.0, z=box.floor_mm),
        )
    ]


def _contact(cavity: Cavity, box: Tool, beside: Beside, rules: Rulebook) -> Check:
    """Return how far a box's margins stand off the adjacent tooth where they come nearest: at the gingival floor, and at
    the contact's height along both walls."""
    crown = cavity.crown
    z = max(crown.contact_mm[beside.side], box.floor_mm)
    up = z - box.floor_mm
    facial, lingual = box.floor[3] + box.slopes[3] * up, box.floor[2] - box.slopes[2] * up
    places = [("gingival floor", 0.0, box.floor_mm), ("facial wall", facial, z), ("lingual wall", lingual, z)]
    clear = [(beside.clearance_mm(crown, y, at), where, y, at) for where, y, at in places]
    least, where, y, at = min(clear, key=lambda one: one[0])
    return at_least(
        f"prepare.contact.{beside.side}",
        f"{beside.side.capitalize()} contact broken",
        least,
        "prepare.contact_clear_mm",
        rules,
        remedy="Open it until a band passes and the margin can be cleaned, no further: a hatchet or a fine diamond.",
        where=where,
        place=Point(x=crown.side_x_mm(beside.side, y, at), y=y, z=at),
    )


def _rows(cavity: Cavity) -> tuple[dict[str, float], dict[str, float]]:
    """Return how far from the middle the tips of the facial and of the lingual cusps stand, by name."""
    tips = cavity.crown.cusps.items()
    return {n: t[1] for n, t in tips if t[1] > 0}, {n: -t[1] for n, t in tips if t[1] < 0}


def _half_mm(cavity: Cavity, box: Tool) -> float:
    """Return half the width of a box where it opens at the height of the groove."""
    height = max(cavity.crown.groove_mm(box.floor[0], box.floor[1]) - box.floor_mm, 0.0)
    return (box.floor[3] - box.floor[2] + (box.slopes[2] + box.slopes[3]) * height) / 2


def _cusps(cavity: Cavity, rules: Rulebook) -> list[Check]:
    """Return how far the occlusal outline has come toward the cusp that is most undermined of those not covered; a
    proximal box's width tells nothing of that."""
    crown, box = cavity.crown, cavity.occlusal
    if box is None:
        return []
    shares = {
        name: _towards(cavity, box, x, y)
        for name, (x, y, _) in crown.cusps.items()
        if name not in cavity.covered
    }
    worst = max(shares, key=lambda name: shares[name], default=None)
    if worst is None or not shares[worst]:
        return []
    consider, cover = rules.value("prepare.cusp_consider_share"), rules.value("prepare.cusp_cover_share")
    verdict: Verdict = "pass"
    if shares[worst] > consider:
        verdict = "caution" if shares[worst] <= cover else "fail"
    named = [name for name, share in shares.items() if share > consider]
    x, y, z = crown.cusps[worst]
    doing = "Cover it" if verdict == "fail" else "Consider covering it"
    return [
        Check(
            topic="prepare.cusps",
            title=f"Margin toward the {worst} cusp",
            measured=round(shares[worst], 2),
            needed=consider,
            relation="at_most",
            unit="of the way from groove to cusp tip",
            verdict=verdict,
            remedy=f"{doing}: reduce it along its slopes, with a cylinder laid oblique.",
            where=", ".join(named or [worst]),
            rules=rules.uses("prepare.cusp_consider_share", "prepare.cusp_cover_share"),
            place=Point(x=x, y=y, z=z),
        )
    ]


def _towards(cavity: Cavity, box: Tool, x_mm: float, y_mm: float) -> float:
    """Return the share of the way from the central groove to a cusp's tip that an occlusal outline has gone."""
    x0, x1, _, _ = box.floor
    aside = max(x0 - x_mm, x_mm - x1, 0.0)
    off = math.hypot(aside, max(abs(y_mm) - _half_mm(cavity, box), 0.0))
    return max(1 - off / abs(y_mm), 0.0)


def _walls(cavity: Cavity, rules: Rulebook) -> list[Check]:
    """Return how thick the wall is under the cusp that is most hollowed out of those not covered, at the floor
    beside it."""
    crown = cavity.crown
    walls = [
        (_outward_mm(cavity, x, tool.floor_mm, y) - tool.floor[3], name, tool)
        for name, (x, y, _) in crown.cusps.items()
        for tool in cavity.tools
        if name not in cavity.covered and _is_beside(tool, x)
    ]
    if not walls or cavity.shoulder:
        return []
    least, name, tool = min(walls, key=lambda wall: wall[0])
    x, y, _ = crown.cusps[name]
    return [
        at_least(
            "prepare.cusp_wall",
            f"Wall under the {name} cusp",
            least,
            "prepare.cusp_wall_mm",
            rules,
            remedy="Cover the cusp: reduce it along its slopes, with a cylinder laid oblique.",
            where="at the height of the floor",
            place=Point(x=x, y=math.copysign(tool.floor[3], y), z=tool.floor_mm),
        )
    ]


def _outward_mm(cavity: Cavity, x_mm: float, z_mm: float, y_mm: float) -> float:
    """Return how far the outer surface stands from the middle at a place along the tooth, on one face."""
    ring = cavity.crown.outline(z_mm)
    side = ring[ring[:, 1] * y_mm > 0]
    order = np.argsort(side[:, 0])
    return float(np.interp(x_mm, side[order, 0], np.abs(side[order, 1])))


def _is_beside(tool: Tool, x_mm: float) -> bool:
    """Tell whether a box runs past a cusp."""
    return min(tool.floor[:2]) <= x_mm <= max(tool.floor[:2])


def ridge_left_mm(cavity: Cavity, box: Tool, side: Side) -> tuple[float, float]:
    """Return how thick an occlusal box leaves a side's marginal ridge at its height, and the x where the box opens there."""
    at, sign = (1, 1.0) if side == "mesial" else (0, -1.0)
    opens = box.floor[at] + sign * box.slopes[at] * (cavity.crown.ridge_mm(side) - box.floor_mm)
    return sign * (cavity.crown.outer_x_mm(side, cavity.crown.contact_mm[side]) - opens), opens


def ridge_rule(cavity: Cavity) -> str:
    """Return the rule of how thick a ridge is to stay."""
    return "prepare.ridge_molar_mm" if cavity.tooth.position >= 6 else "prepare.ridge_premolar_mm"


def _ridges(cavity: Cavity, rules: Rulebook) -> list[Check]:
    """Return how thick each marginal ridge is that the occlusal box leaves."""
    box = cavity.occlusal
    # A shoulder takes the ridges off.
    if box is None or cavity.shoulder:
        return []
    rule = ridge_rule(cavity)
    checks = []
    for side in SIDES:
        if side in {tool.side for tool in cavity.boxes}:
            continue
        left, opens = ridge_left_mm(cavity, box, side)
        checks.append(
            at_least(
                f"prepare.ridge.{side}",
                f"{side.capitalize()} ridge left",
                left,
                rule,
                rules,
                remedy="It may break: where it is undermined, open it to a box.",
                where=f"{side} marginal ridge",
                place=Point(x=opens, y=0.0, z=cavity.crown.ridge_mm(side)),
            )
        )
    return checks
