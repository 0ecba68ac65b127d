"""Retention that lost cusps ask for, held against what is there."""

from __future__ import annotations

import math
from collections.abc import Sequence

from mallet.cavity.preparation import Cavity
from mallet.rulebook import Rulebook
from mallet.terms.case import Case
from mallet.terms.parts import PinHole, RetentionGroove, Slot
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
            case RetentionGroove(walls="both"):
                found.append("box with two grooves")
    return found


def judge_retention(case: Case, cavity: Cavity, rules: Rulebook) -> StageResult:
    """Return the retention that is needed and what is there; a caution where it is less, and never more than that."""
    lost = line_angles_lost(cavity)
    if not lost:
        return StageResult()
    held = held_by(case)
    needed = math.ceil(len(lost) * rules.value("amalgam.retention_each") - 1e-9)
    there = _counted(held)
    enough = len(held) >= needed
    check = Check(
        topic="prepare.retention",
        title="Retention for lost cusps",
        measured=len(held),
        needed=needed,
        relation="at_least",
        unit="one for each axial line angle",
        verdict="pass" if enough else "caution",
        remedy="Cut two grooves in each box first, then slots; pins last: they hold, and do not strengthen.",
        where=f"{len(lost)} axial line angles lost, {len(cavity.covered)} cusps",
        rules=rules.uses("amalgam.retention_each"),
    )
    reasons = [say("amalgam.retention", needed=len(lost), there=there or "nothing")]
    spare = _spare(held, needed)
    if spare:
        reasons.append(say("amalgam.retention_spare", what=spare))
    decision = Decision(
        topic="prepare.retention",
        chosen=f"{len(held)} of {needed}: {there or 'none'}",
        alternatives=["bonded instead"],
        reasons=[*reasons, say("amalgam.retention_sides")],
        rules=rules.uses("amalgam.retention_each"),
    )
    return StageResult(checks=[check], decisions=[decision])


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
