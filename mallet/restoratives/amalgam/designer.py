"""What would hold a restoration: the least invasive sets of grooves, slots and pins that are enough, each sited where all
distances hold."""

from __future__ import annotations

import itertools
import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Any

from mallet.cavity.measures import gap_mm
from mallet.cavity.preparation import Cavity, prepare_cavity
from mallet.restoratives.amalgam.retention import chamber_holds, held_by, is_deep_enough, line_angles_lost
from mallet.rulebook import Rulebook
from mallet.rulebook.parts import part_name, short_of
from mallet.stages.prepare_features import check_features
from mallet.terms.case import Case
from mallet.terms.errors import InputError
from mallet.terms.parts import FaceBox, FeaturePart, PinHole, PulpChamber, RetentionGroove, Slot
from mallet.terms.plan import Caution, Check, Design
from mallet.terms.reasons import warn

# What a hold costs of the tooth, against the others: grooves in a box that is there take least, pins crack.
COST = {"retention_groove": 1.0, "slot": 2.5, "face_box": 4.0, "pin_hole": 5.0}
FACE_BOX = {"width_mm": 2.0, "axial_depth_mm": 1.5, "above_cej_mm": 2.0, "grooves": "both"}
ALONG_MM = (0.0, 1.0, -1.0, 1.8, -1.8)
# How deep a pulp chamber is tried, where nobody measured it.
CHAMBER_MM = (2.5, 2.0, 1.5)
# Where along the outline a pin is tried that keeps a distance badly, and which distances its site decides.
TRIED_MM, FARTHER_IN_MM = (0.0, 1.2, -1.2, 1.8, -1.8), (1.2,)
SITED = (".pulp", ".junction", ".surface", ".apart")
PRACTICE = "Common practice, no source"
MOST_SETS = 3
# Fewer holds than this are looked through in all their sets.
MOST_TRIED = 60


@dataclass(frozen=True)
class Site:
    """One hold where all its distances are kept, besides what is cut already."""

    part: FeaturePart
    name: str

    @property
    def cost(self) -> float:
        return COST[self.part.kind]


def designs(case: Case, rules: Rulebook) -> list[Design]:
    """Return up to three sets of holds that are enough for the cusps lost, the least invasive first; nothing where nothing
    is wanted or no set would do. What is cut already stays."""
    cavity = prepare_cavity(case, rules)
    lost = line_angles_lost(cavity)
    wanted = math.ceil(len(lost) * rules.value("amalgam.retention_each") - 1e-9) - len(held_by(case))
    if wanted <= 0 or chamber_holds(case, rules):
        return []
    sites = list(_sites(case, cavity, rules))
    found = list(_chamber(case, cavity, rules))
    for chosen in _sets(sites, wanted):
        parts = [site.part for site in chosen]
        if not _keeps(case, parts, rules):
            continue
        kinds = {part.kind for part in parts}
        if any({one["kind"] for one in design.parts} == kinds for design in found):
            # Another of the same kinds tells nothing new.
            continue
        found.append(_design(chosen, wanted))
        if len(found) == MOST_SETS:
            break
    return found


def _chamber(case: Case, cavity: Cavity, rules: Rulebook) -> Iterator[Design]:
    """Yield the pulp chamber of a root canal-treated tooth, where there is room for it: no sound tooth is cut."""
    has_one = any(isinstance(part, PulpChamber) for part in case.preparation.parts)
    if case.tooth.vitality != "root_canal_treated" or has_one or cavity.occlusal is None:
        return
    canals = cavity.crown.canals
    x0, x1, y0, y1 = cavity.occlusal.floor
    for depth in CHAMBER_MM if canals else (rules.value("amalgam.chamber_deep_mm"),):
        part = PulpChamber.model_validate(
            {
                "kind": "pulp_chamber",
                "depth_mm": depth,
                "length_mm": min(3.0, x1 - x0),
                "width_mm": min(2.5, y1 - y0),
                "canals": canals,
            }
        )
        if is_deep_enough(part, rules) and _keeps(case, [part], rules):
            name = part_name("pulp_chamber", side="", at="")
            says = "Holds for all that is lost, without cutting sound tooth."
            yield Design(name=name, parts=[part.model_dump(exclude_none=True)], says=says)
            return


def _design(chosen: Sequence[Site], wanted: int) -> Design:
    return Design(
        name=", ".join(site.name for site in chosen),
        parts=[site.part.model_dump(exclude_none=True) for site in chosen],
        says=f"{len(chosen)} of {wanted} that are still wanted; all distances kept.",
    )


def _sets(sites: Sequence[Site], wanted: int) -> Iterator[Sequence[Site]]:
    """Yield sets of so many holds, the least invasive first, at most one at a site."""
    sets = [
        one
        for one in itertools.combinations(sites, wanted)
        if len({(site.part.kind, _at(site.part)) for site in one}) == wanted
    ]
    sets.sort(key=lambda one: sum(site.cost for site in one))
    yield from sets[:MOST_TRIED]


def _at(part: FeaturePart) -> str:
    return str(getattr(part, "side", None) or getattr(part, "face", None) or getattr(part, "at", ""))


def _sites(case: Case, cavity: Cavity, rules: Rulebook) -> Iterator[Site]:
    """Yield each hold that could be cut by itself: grooves in boxes that have none, one slot and one pin at each lost cusp."""
    taken = {(part.kind, _at(part)) for part in case.preparation.parts if isinstance(part, FeaturePart)}
    for box in cavity.boxes:
        if box.side and ("retention_groove", box.side) not in taken:
            groove = RetentionGroove(
                kind="retention_groove",
                side=box.side,
                walls="both",
                depth_mm=0.4,
                width_mm=0.8,
                height_mm=1.8,
            )
            if _keeps(case, [groove], rules):
                yield Site(groove, part_name("retention_groove", side=box.side, at=""))
    for face in ("facial", "lingual"):
        if ("face_box", face) not in taken and face[0].upper() in case.restoration.surfaces:
            box_in = FaceBox.model_validate({**FACE_BOX, "kind": "face_box", "face": face})
            if _keeps(case, [box_in], rules):
                yield Site(box_in, part_name("face_box", side=face, at=""))
    for cusp in sorted(cavity.covered):
        for kind in ("slot", "pin_hole"):
            if (kind, cusp) in taken:
                continue
            tried = (_part(kind, cusp, along) for along in ALONG_MM)
            fitting = next((part for part in tried if _keeps(case, [part], rules)), None)
            if fitting:
                yield Site(fitting, part_name(kind, side="", at=short_of(cusp)))


def nearest_sites(case: Case, cavity: Cavity, checks: Sequence[Check], rules: Rulebook) -> list[Caution]:
    """Return for each pin that keeps a distance badly how far along the outline, and toward where, all are kept."""
    found = []
    for index, part in enumerate(case.preparation.parts):
        own = f"prepare.pin_hole.{index}."
        is_amiss = any(
            check.topic.startswith(own) and check.topic.endswith(SITED) and check.verdict != "pass"
            for check in checks
        )
        if not isinstance(part, PinHole) or not is_amiss:
            continue
        name = part_name("pin_hole", side="", at=short_of(part.at))
        site = _nearest(case, index, part, rules)
        if site is None:
            found.append(warn("note", "amalgam.pin_nowhere", PRACTICE, name=name))
        else:
            way = _way(cavity, part, site)
            found.append(warn("note", "amalgam.pin_site", PRACTICE, name=name, way=way))
    return found


def _nearest(case: Case, index: int, part: PinHole, rules: Rulebook) -> PinHole | None:
    """Return a pin at the site that is nearest to its own and keeps all distances, if there is one."""
    others = [one for at, one in enumerate(case.preparation.parts) if at != index]
    rest = case.model_copy(update={"preparation": case.preparation.model_copy(update={"parts": others})})
    sites = [
        part.model_copy(update={"along_mm": along, "inset_mm": inset})
        for along in TRIED_MM
        for inset in (part.inset_mm, *(one for one in FARTHER_IN_MM if one > part.inset_mm))
    ]
    sites.sort(key=lambda one: math.hypot(one.along_mm - part.along_mm, one.inset_mm - part.inset_mm))
    return next((one for one in sites if one != part and _keeps(rest, [one], rules, SITED)), None)


def _way(cavity: Cavity, part: PinHole, site: PinHole) -> str:
    """Return in words how far another site of a pin lies, and toward where: the outline is gone round counterclockwise."""
    along, inward = site.along_mm - part.along_mm, site.inset_mm - part.inset_mm
    x, y, _ = cavity.crown.cusps[part.at]
    dx, dy = -y * along, x * along
    ways = (abs(dx), "mesial" if dx > 0 else "distal"), (abs(dy), "facial" if dy > 0 else "lingual")
    toward = max(ways)[1]
    told = [f"{abs(along):.1f} mm {toward} along the outline"] if along else []
    return " and ".join([*told, *([f"{inward:.1f} mm farther in"] if inward else [])])


def _part(kind: str, at: str, along_mm: float) -> Slot | PinHole:
    where: dict[str, Any] = {"kind": kind, "at": at, "along_mm": along_mm}
    if kind == "slot":
        return Slot(**where, length_mm=1.8, width_mm=0.8, depth_mm=1.0, inset_mm=0.8)
    return PinHole(**where, diameter_mm=0.6, depth_mm=2.0, above_floor_mm=1.5, inset_mm=0.8)


def _is_crowded(cavity: Cavity, before: int, rules: Rulebook) -> bool:
    """Tell whether a hold that is cut besides leaves too little tooth to another."""
    apart = rules.value("prepare.slot_apart_mm")
    hollows = [one for one in cavity.features if one.kind in COST]
    return any(
        gap_mm(one.taken, other.taken, (apart,)) < apart
        for one, other in itertools.combinations(hollows, 2)
        if max(one.index, other.index) >= before
    )


def _keeps(case: Case, parts: Sequence[FeaturePart], rules: Rulebook, only: tuple[str, ...] = ("",)) -> bool:
    """Tell whether parts can be cut besides what there is, and keep all their distances, or those of `only` some ends of
    topics."""
    before = len(case.preparation.parts)
    preparation = case.preparation.model_copy(update={"parts": [*case.preparation.parts, *parts]})
    changed = case.model_copy(update={"preparation": preparation})
    try:
        cavity = prepare_cavity(changed, rules)
    except InputError:
        return False
    if _is_crowded(cavity, before, rules):
        return False
    own = {f"prepare.{part.kind}.{before + i}." for i, part in enumerate(parts)}
    checks = check_features(changed, cavity, rules)
    return all(
        check.verdict == "pass"
        for check in checks
        if check.topic.endswith(only) and any(check.topic.startswith(one) for one in own)
    )
