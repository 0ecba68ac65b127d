"""What has to be done again when the field gets wet, by how far the work has come.

Common practice, no source: acid and adhesive that met saliva are rinsed and begun again, an uncured
increment comes out, and what is cured stays under a fresh coat of adhesive.
"""

from __future__ import annotations

from collections.abc import Sequence

from mallet.terms.plan import Step, Wet
from mallet.terms.reasons import say

ASSISTANT = "assistant"


def with_wet(steps: Sequence[Step]) -> list[Step]:
    """Return the steps in the same order, each that is stepped through with what wet would undo."""
    stepped = [step for step in steps if step.actor != ASSISTANT]
    bonding = [step.id for step in stepped if step.stage == "bond"]
    known: dict[str, Wet] = {}
    for i, step in enumerate(stepped):
        is_bonded = any(before.stage == "bond" for before in stepped[:i])
        is_filled = all(later.increment is None for later in stepped[i:])
        known[step.id] = _wet(step, stepped, bonding, is_bonded, is_filled)
        if step.stage == "build" and not is_bonded:
            # Glass ionomer under it is not bonded over yet.
            cured = {one.increment for one in stepped[:i] if one.light and one.increment}
            before = [one.id for one in stepped[:i] if one.stage == "build" and one.increment not in cured]
            known[step.id] = Wet(redo=before, reason=say("wet.in_sandwich"))
    return [step.model_copy(update={"wet": known.get(step.id)}) for step in steps]


def _wet(
    step: Step, stepped: Sequence[Step], bonding: Sequence[str], is_bonded: bool, is_filled: bool
) -> Wet:
    if step.stage == "bond":
        before = list(bonding[: bonding.index(step.id)])
        return Wet(redo=before, reason=say("wet.in_bond" if before else "wet.before_bond"))
    if step.increment is None:
        if is_bonded and not is_filled:
            return Wet(redo=list(bonding), reason=say("wet.film"))
        return Wet(redo=[], reason=say("wet.cured" if is_bonded else "wet.before_bond"))
    if not step.light:
        return Wet(redo=list(bonding), reason=say("wet.film"))
    placing = [s.id for s in stepped if s.increment == step.increment and not s.light]
    return Wet(redo=[*bonding, *placing], reason=say("wet.portion"))
