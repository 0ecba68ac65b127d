"""Steps of finishing that every restorative has: contact, occlusion, the last look, what the patient is told."""

from __future__ import annotations

from collections.abc import Sequence

from mallet.rulebook import Rulebook
from mallet.rulebook.steps import catalog_step
from mallet.terms.case import Case
from mallet.terms.plan import Step


def contact_step(rules: Rulebook, *, is_later: bool = False) -> Step:
    """Return how a contact is checked, before the field is given up or at a later visit."""
    return catalog_step("finish.contact", rules, {"in_field": not is_later})


def occlusion_step(case: Case, rules: Rulebook) -> Step:
    """Return how the occlusion is checked; in an open bite, that there is none on an anterior tooth's edge."""
    is_free = case.findings.overbite == "open" and case.face_part is not None
    return catalog_step("finish.bite_free" if is_free else "finish.bite", rules)


def verified(
    case: Case,
    after: str,
    back_to: str,
    rules: Rulebook,
    *,
    judged_from_d: float | None = None,
    is_later: bool = False,
) -> list[Step]:
    """Return the last look at the finished work, which leads back to a step, and what the patient is told; `judged_from_d` is
    from which day on its shade is judged, where that is looked at again; at a later visit nobody is numb."""
    looked = {"numb": not is_later, "bite": not case.is_unbitten, "back_to": back_to}
    told = {"cold": case.tooth.vitality == "vital", "shade": judged_from_d is not None, "days": judged_from_d}
    return [
        catalog_step("finish.verify", rules, looked, after=[after]),
        catalog_step("finish.tell", rules, told, after=["finish.verify"]),
    ]


def in_turn(steps: Sequence[Step]) -> list[Step]:
    """Return steps each of which comes after the one before."""
    befores = [[], *([step.id] for step in steps[:-1])]
    return [step.model_copy(update={"after": before}) for step, before in zip(steps, befores, strict=True)]
