"""Retention that lost cusps ask for, held against what is there."""

from __future__ import annotations

import math
from collections.abc import Sequence

from mallet.cavity.preparation import Cavity
from mallet.rulebook import Rulebook
from mallet.terms.case import Case
from mallet.terms.parts import FaceBox, PinHole, PulpChamber, RetentionGroove, Slot
from mallet.terms.plan import Check, Decision, StageResult
from mallet.terms.reasons import say


def line_angles_lost(cavity: Cavity) -> set[tuple[str, str]]:
    """Return the axial line angles that reduced cusps took: a cusp that is alone on its face has two."""
    lost = set()
    for cusp in cavity.covered:
        x, y, _ = cavity.crown.cusps[cusp]
        face = "facial" if y > 0 else "lingual"
        row = [name for name, tip in cavity.crown.cusps.items() if tip[1] * y > 0]
        lost |= {
            (side, face) for side in ("mesial", "distal") if len(row) == 1 or (x > 0) == (side == "mesial")
        }
    return lost


def held_by(case: Case) -> list[str]:
    """Return what holds a restoration besides its walls, a name each."""
    found = []
    for part in case.preparation.parts:
        match part:
            case PinHole():
                found.append("pin")
            case Slot():
                found.append("slot")
            case RetentionGroove(walls="both") | FaceBox(grooves="both"):
                found.append("box with two grooves")
    return found


def chamber_holds(case: Case, rules: Rulebook) -> bool:
    """Tell whether a pulp chamber holds all by itself: deep enough, or far enough into canals."""
    chambers = [part for part in case.preparation.parts if isinstance(part, PulpChamber)]
    return any(is_deep_enough(part, rules) for part in chambers)


def is_deep_enough(part: PulpChamber, rules: Rulebook) -> bool:
    into = part.canal_depth_mm if part.canals else 0.0
    return part.depth_mm >= rules.value("amalgam.chamber_deep_mm") or into >= rules.value(
        "amalgam.canals_deep_mm"
    )


def judge_retention(case: Case, cavity: Cavity, rules: Rulebook) -> StageResult:
    """Return the retention that is needed and what is there; a caution where it is less, and never more than that."""
    lost = line_angles_lost(cavity)
    if not lost:
        return StageResult()
    needed = math.ceil(len(lost) * rules.value("amalgam.retention_each") - 1e-9)
    held = held_by(case)
    count = len(held)
    if chamber_holds(case, rules):
        # A chamber stands for all that is needed.
        held, count = ["pulp chamber", *held], max(needed, count)
    there = _counted(held)
    enough = count >= needed
    used = rules.uses(*_used(case))
    check = Check(
        topic="prepare.retention",
        title="Retention for lost cusps",
        measured=count,
        needed=needed,
        relation="at_least",
        unit="one for each axial line angle",
        verdict="pass" if enough else "caution",
        remedy=_remedy(case, rules),
        where=f"{len(lost)} axial line angles lost, {len(cavity.covered)} cusps",
        rules=used,
    )
    reasons = [say("amalgam.retention", needed=len(lost), there=there or "nothing")]
    spare = _spare(held, 0 if "pulp chamber" in held else needed)
    if spare:
        reasons.append(say("amalgam.retention_spare", what=spare))
    decision = Decision(
        topic="prepare.retention",
        chosen=f"{count} of {needed}: {there or 'none'}",
        alternatives=["bonded instead"],
        reasons=[*reasons, say("amalgam.retention_sides")],
        rules=used,
    )
    return StageResult(checks=[check], decisions=[decision])


def _used(case: Case) -> list[str]:
    has_chamber = any(isinstance(part, PulpChamber) for part in case.preparation.parts)
    return [
        "amalgam.retention_each",
        *(("amalgam.chamber_deep_mm", "amalgam.canals_deep_mm") if has_chamber else ()),
    ]


def _remedy(case: Case, rules: Rulebook) -> str:
    if case.tooth.vitality == "root_canal_treated":
        deep = rules.value("amalgam.canals_deep_mm")
        return f"Use the pulp chamber, at least {deep:g} mm into its canals, before slots and pins: no sound tooth is cut."
    return "Cut two grooves in each box first, then slots; pins last: they hold, and do not strengthen."


def _counted(held: Sequence[str]) -> str:
    kinds = list(dict.fromkeys(held))
    told = []
    for kind in kinds:
        count = held.count(kind)
        many = {"box with two grooves": "boxes with two grooves"}.get(kind, f"{kind}s")
        told.append(f"{count} {many if count > 1 else kind}")
    return ", ".join(told)


def _spare(held: Sequence[str], needed: int) -> str:
    """Return what of the more invasive kinds could be left out."""
    more = len(held) - needed
    found = []
    for kind in ("pin", "slot"):
        count = min(more, held.count(kind))
        if count > 0:
            found.append(f"{count} {kind}{'s' if count > 1 else ''}")
            more -= count
    return " and ".join(found)
