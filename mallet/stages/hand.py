"""Steps of the hand, with the seconds of a rule."""

from __future__ import annotations

from typing import Any

from mallet.terms.pieces import RuleUse
from mallet.terms.plan import Step


def hand_step(*, id: str, title: str, detail: str, rule: RuleUse, **more: Any) -> Step:
    """Return a step of the dentist's unless said otherwise; its stage is the first word of its id, and it
    takes as long as a rule says."""
    fields: dict[str, Any] = {
        "id": id,
        "stage": id.partition(".")[0],
        "title": title,
        "detail": detail,
        "actor": "dentist",
        "seconds": rule.value,
        "seconds_rule": rule,
    }
    return Step.model_validate({**fields, **more})
