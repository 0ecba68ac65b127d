"""What holds a restoration, a tunnel, a shoulder and a stump: how they are cut, and what they are held against."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator, Mapping
from functools import lru_cache
from typing import Any

import numpy as np
from manifold3d import Manifold

from mallet.cavity.crowns import solid_of
from mallet.cavity.features import Feature, distances_mm
from mallet.cavity.measures import vertical_at_mm
from mallet.cavity.preparation import Cavity
from mallet.rulebook import Rulebook
from mallet.rulebook.parts import part_name, short_of
from mallet.rulebook.steps import catalog_step
from mallet.stages.inputs import input_of
from mallet.stages.least import at_least
from mallet.terms.case import Case
from mallet.terms.errors import InputError
from mallet.terms.parts import (
    FaceBox,
    Part,
    PinHole,
    PulpChamber,
    RetentionGroove,
    SealantGroove,
    Shoulder,
    Slot,
    StripCrownPreparation,
    Tunnel,
)
from mallet.terms.pieces import Point
from mallet.terms.plan import Check, Step, Target, Verdict, Want
from mallet.terms.stock import RetentionPin
from mallet.tooth import Crown, loft_crown

CUT_APART = Slot | RetentionGroove | PinHole | PulpChamber | Shoulder | StripCrownPreparation | SealantGroove
NAMES = {"slot": "Slot", "pin_hole": "Pin", "retention_groove": "Groove"}
ROOM_MM = 12.0
# A hole is meant for a pin in stock that differs by no more.
SAME_PIN_MM = 0.03


@lru_cache(maxsize=16)
def _enamel_and_outside(outer: Crown, dentin: Crown) -> tuple[Manifold, Manifold]:
    """Return the enamel of a whole tooth, and a block around it with the tooth left out, in its frame."""
    whole = solid_of(outer).solid
    x0, y0, z0, x1, y1, z1 = whole.bounding_box()
    size = (x1 - x0 + 2, y1 - y0 + 2, z1 - z0 + ROOM_MM)
    block = Manifold.cube(size).translate((x0 - 1, y0 - 1, z0 + 0.1))
    return whole - solid_of(dentin).solid, block - whole


def check_features(case: Case, cavity: Cavity, rules: Rulebook) -> list[Check]:
    """Return what features, tunnels, shoulders and stumps are held against."""
    checks = [
        check for one in cavity.features if one.kind in NAMES for check in _held(case, cavity, one, rules)
    ]
    for part in case.preparation.parts:
        match part:
            case Tunnel():
                checks.append(_ridge_over(cavity, part, rules))
            case FaceBox():
                _refuse_unheld(case, part)
            case PulpChamber():
                checks += _chamber(case, cavity, part, rules)
            case Shoulder():
                checks += _shoulder(cavity, part, rules)
            case StripCrownPreparation():
                checks.append(_stump(cavity, part, rules))
    return checks


def _held(case: Case, cavity: Cavity, one: Feature, rules: Rulebook) -> Iterator[Check]:
    """Yield how a slot, pin or groove stands to enamel, outside, boxes, other pins, and how deep it is."""
    part, name = case.preparation.parts[one.index], f"{NAMES[one.kind]}, {one.where}"
    assert isinstance(part, Slot | PinHole | RetentionGroove)
    solids = _solids(cavity, rules)
    boxes = [box.cut.solid for box in cavity.boxes if box.side != getattr(part, "at", None)]
    gaps = distances_mm(one, boxes if isinstance(part, Slot) else [], solids)
    place = Point(x=one.mouth[0], y=one.mouth[1], z=one.mouth[2])

    def check(topic: str, title: str, measured: float, rule: str, remedy: str, verdict: Verdict) -> Check:
        return at_least(
            f"prepare.{one.kind}.{one.index}.{topic}",
            f"{NAMES[one.kind]}: {title}",
            measured,
            rule,
            rules,
            remedy=remedy,
            where=name,
            place=place,
            otherwise=verdict,
        )

    shallower = "Make it shallower, set it farther out, or take another site."
    if "pulp" in gaps:
        yield check(
            "pulp", "from the pulp", gaps["pulp"], "tooth.least_remaining_dentin_mm", shallower, "fail"
        )
    if not isinstance(part, RetentionGroove):
        # A distance that was measured counts before the handbook's junction.
        path = f"preparation.parts[{one.index}].inset_mm"
        is_told = "inset_mm" in part.model_fields_set and case.provenance_of(path) == "measured"
        inside = (
            max(part.inset_mm, gaps["enamel"])
            if is_told and not is_on_shoulder(cavity, part)
            else gaps["enamel"]
        )
        yield check(
            "junction",
            "inside the dentinoenamel junction",
            inside,
            "prepare.lock_junction_mm",
            _farther_in(inside, "prepare.lock_junction_mm", gaps, rules),
            "caution",
        )
        off = gaps["outside"]
        out = _farther_in(off, "prepare.lock_surface_mm", gaps, rules)
        yield check("surface", "from the outside", off, "prepare.lock_surface_mm", out, "caution")
    if "cut" in gaps:
        away = "Shorten it with the same bur, away from the box."
        yield check("box", "tooth to the box", gaps["cut"], "prepare.slot_apart_mm", away, "caution")
    if isinstance(part, Slot):
        deeper = "Deepen it with the same bur, its edge countersunk."
        yield check("depth", "depth", part.depth_mm, "prepare.slot_depth_mm", deeper, "caution")
    if isinstance(part, PinHole):
        yield from _pin(cavity, one, part, check, rules)


def _farther_in(measured: float, rule: str, gaps: Mapping[str, float], rules: Rulebook) -> str:
    """Return what mends a hold that is too far out: never toward a pulp that is near already."""
    room = gaps.get("pulp", math.inf) - rules.value("tooth.least_remaining_dentin_mm")
    if rules.value(rule) - measured <= room:
        return "Set it farther in; a probe beside the bur tells the distance."
    return "Take another site: farther in comes too near the pulp."


def _pin(
    cavity: Cavity, one: Feature, part: PinHole, check: Callable[..., Check], rules: Rulebook
) -> Iterator[Check]:
    deeper = "Drill on with the depth-limiting drill, pumping, never stopped in the hole."
    yield check("depth", "in dentin", part.depth_mm, "prepare.pin_depth_mm", deeper, "caution")
    x, y, z = one.mouth
    over = vertical_at_mm(cavity.outer.solid, x, y)[1] - z - part.above_floor_mm
    yield check("over", "restoration over it", over, "prepare.pin_over_mm", "Cut the pin shorter.", "fail")
    others = [other for other in cavity.features if other.kind == "pin_hole" and other is not one]
    if others:
        apart = min(math.dist(one.mouth, other.mouth) for other in others)
        thin = part.diameter_mm <= rules.value("prepare.pin_thin_mm")
        rule = "prepare.pin_thin_apart_mm" if thin else "prepare.pin_thick_apart_mm"
        yield check("apart", "to the next pin", apart, rule, "Set it at another line angle.", "caution")


def is_on_shoulder(cavity: Cavity, part: Slot | PinHole) -> bool:
    """Tell whether a pin stands on the shoulder, and not on the floor that the core has."""
    return cavity.shoulder is not None and isinstance(part, PinHole) and part.on != "floor"


def _solids(cavity: Cavity, rules: Rulebook) -> dict[str, Manifold]:
    enamel, outside = _enamel_and_outside(cavity.crown, loft_crown(cavity.tooth, rules, "dentin"))
    turned = {"enamel": cavity.access.turned(enamel), "outside": cavity.access.turned(outside)}
    return {**turned, "pulp": cavity.pulp} if cavity.pulp else turned


def _ridge_over(cavity: Cavity, part: Tunnel, rules: Rulebook) -> Check:
    ridge = cavity.crown.ridge_mm(part.side)
    z = ridge - part.below_ridge_mm
    return at_least(
        f"prepare.tunnel.{part.side}",
        f"{part.side.capitalize()} ridge over the tunnel",
        part.below_ridge_mm,
        "prepare.tunnel_ridge_mm",
        rules,
        remedy="A ridge so low breaks: open it to a box, with hatchet and fissure bur.",
        where=f"{part.side} marginal ridge",
        place=Point(x=cavity.crown.outer_x_mm(part.side, z), y=0.0, z=z),
    )


def _shoulder(cavity: Cavity, part: Shoulder, rules: Rulebook) -> list[Check]:
    needed = rules.value("prepare.shoulder_mm")
    level = part.above_cej_mm
    over_neck = cavity.outer.solid.trim_by_plane((0.0, 0.0, 1.0), 0.0)
    lost = cavity.filling.volume() / over_neck.volume()
    x = cavity.crown.outer_x_mm("mesial", level)
    return [
        at_least(
            "prepare.shoulder",
            "Shoulder for the later crown",
            part.width_mm,
            "prepare.shoulder_mm",
            rules,
            remedy=f"Widen it to {needed:g} mm with a flat-ended cylinder, level all round.",
            where="all round",
            place=Point(x=x, y=0.0, z=level),
        ),
        at_least(
            "prepare.core",
            "Crown that is lost",
            lost,
            "prepare.core_lost_share",
            rules,
            remedy="Consider cuspal coverage: less is lost than a core is built for.",
            where="over the cementoenamel junction",
            unit="of the crown",
            hair=0.0,
        ),
    ]


def _refuse_unheld(case: Case, part: FaceBox) -> None:
    """Raise InputError for grooves that nothing bonded is held by."""
    if part.grooves != "none" and not case.restoration.is_condensed:
        index = next(i for i, one in enumerate(case.preparation.parts) if one is part)
        allowed = "none: what is bonded is held by the bond"
        raise InputError.at(f"preparation.parts[{index}].grooves", part.grooves, allowed)


def _refuse_unpacked(case: Case, part: Part) -> None:
    """Raise InputError for a part that only what is condensed is packed into."""
    if not case.restoration.is_condensed:
        index = next(i for i, one in enumerate(case.preparation.parts) if one is part)
        name = part_name(part.kind, side=getattr(part, "face", ""), at="")
        raise InputError.at(f"preparation.parts[{index}].kind", part.kind, f"a {name} under amalgam only")


def _chamber(case: Case, cavity: Cavity, part: PulpChamber, rules: Rulebook) -> list[Check]:
    """Return how thick the tooth is left beside a pulp chamber; raise InputError for a tooth whose pulp lives, and for a
    restorative that is not condensed into it."""
    index = next(i for i, one in enumerate(case.preparation.parts) if one is part)
    path = f"preparation.parts[{index}].kind"
    if case.tooth.vitality != "root_canal_treated":
        raise InputError.at(path, part.kind, "a pulp chamber only of a root canal-treated tooth")
    _refuse_unpacked(case, part)
    one = next(one for one in cavity.features if one.index == index)
    outside = {"outside": _solids(cavity, rules)["outside"]}
    x, y, z = one.mouth
    return [
        at_least(
            "prepare.pulp_chamber.wall",
            "Tooth beside the pulp chamber",
            distances_mm(one, [], outside)["outside"],
            "prepare.chamber_wall_mm",
            rules,
            remedy="Widen it no more: fill it as it is, and cover the cusps that it leaves thin.",
            where="narrowest wall of the chamber or a canal",
            place=Point(x=x, y=y, z=z - part.depth_mm),
            otherwise="caution",
        )
    ]


def _stump(cavity: Cavity, part: StripCrownPreparation, rules: Rulebook) -> Check:
    needed = rules.value("prepare.stump_edge_mm")
    x, y, z = (float(c) for c in np.array(cavity.crown.centre))
    return at_least(
        "prepare.stump",
        "Incisal reduction for the strip crown",
        part.incisal_reduction_mm,
        "prepare.stump_edge_mm",
        rules,
        remedy=f"Take the edge down to {needed:g} mm with a cylinder, level.",
        where="edge",
        place=Point(x=x, y=y, z=z - part.incisal_reduction_mm),
    )


def pin_in_stock(case: Case, part: PinHole) -> RetentionPin | None:
    """Return the pin in stock that a hole is meant for, if there is one."""
    pins = [one for one in case.stock if isinstance(one, RetentionPin)]
    fitting = [one for one in pins if abs(one.diameter_mm - part.diameter_mm) <= SAME_PIN_MM]
    return min(fitting, key=lambda one: (abs(one.diameter_mm - part.diameter_mm), one.name), default=None)


def pin_wants(case: Case) -> list[Want]:
    """Return the pins that are to be set, each kind once; none where the practice keeps none in stock."""
    if not any(isinstance(one, RetentionPin) for one in case.stock):
        return []
    wants: dict[str, Want] = {}
    for part in case.preparation.parts:
        if isinstance(part, PinHole):
            found, text = pin_in_stock(case, part), f"pin {part.diameter_mm:g} mm"
            name, lot = (found.name, found.lot) if found else (None, None)
            wants[text] = Want(kind="pin", text=text, name=name, lot=lot)
    return list(wants.values())


def _pin_words(case: Case, part: PinHole, rules: Rulebook) -> dict[str, object]:
    """Return which pin and which drill: those in stock, else a drill of the usual share of the pin."""
    found = pin_in_stock(case, part)
    if found:
        return {"pin": found.name, "drill_mm": found.drill_mm}
    drill = round(part.diameter_mm * rules.value("prepare.pin_drill_share"), 2)
    return {"pin": f"pin {part.diameter_mm:g} mm", "drill_mm": drill}


def _hole_depth(case: Case, index: int, part: PinHole, rules: Rulebook) -> Target:
    """Return the depth that a hole is probed for, and typed."""
    off = rules.use("prepare.pin_hole_off_mm")
    return Target(
        id="depth",
        title=f"hole of {part_name('pin_hole', side='', at=short_of(part.at))}",
        detail="its depth by the probe, from the floor",
        unit="mm",
        is_height=False,
        value=part.depth_mm,
        low=round(part.depth_mm - off.value, 2),
        high=round(part.depth_mm + off.value, 2),
        under="Drill on with the depth-limiting drill, pumping, never stopped in the hole.",
        over="Stop: look at the pulp's distance on the radiograph before the pin is set.",
        rules=[off],
        inputs=[input_of(case, f"preparation.parts[{index}].depth_mm", "mm")],
    )


def cut_features(case: Case, cavity: Cavity, after: str, rules: Rulebook) -> list[Step]:
    """Return the steps that cut what holds the restoration, a shoulder, a stump or a groove to be sealed."""
    steps: list[Step] = []
    where = {one.index: one.where for one in cavity.features}
    # What holds is set into what a shoulder leaves.
    parts = sorted(enumerate(case.preparation.parts), key=lambda one: not isinstance(one[1], Shoulder))
    for i, part in parts:
        if isinstance(part, CUT_APART):
            told = {**part.model_dump(), "at": i, "where": where.get(i, "")}
            fields: dict[str, Any] = {"after": [steps[-1].id if steps else after]}
            if isinstance(part, PinHole):
                told |= _pin_words(case, part, rules)
                fields["targets"] = [_hole_depth(case, i, part, rules)]
            steps.append(catalog_step(f"prepare.{part.kind}", rules, told, **fields))
    return steps
