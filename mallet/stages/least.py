"""Checks of what is to reach the value of a rule."""

from __future__ import annotations

from mallet.rulebook import Rulebook
from mallet.terms.pieces import Point
from mallet.terms.plan import Check, Verdict

HAIR_MM = 5e-3


def at_least(
    topic: str,
    title: str,
    measured: float,
    rule: str,
    rules: Rulebook,
    *,
    remedy: str,
    where: str,
    place: Point | None = None,
    unit: str = "mm",
    hair: float = HAIR_MM,
    otherwise: Verdict = "caution",
) -> Check:
    """Return the check that a measure reaches a rule's value, up to a hair; `otherwise` is what it comes to if not."""
    needed = rules.value(rule)
    return Check(
        topic=topic,
        title=title,
        measured=round(measured, 2),
        needed=needed,
        relation="at_least",
        unit=unit,
        verdict="pass" if measured >= needed - hair else otherwise,
        remedy=remedy,
        where=where,
        rules=rules.uses(rule),
        place=place,
    )
