"""Fissures that are sealed: cleaned and looked at, not cut, on one tooth or on several of a quadrant."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from mallet.rulebook import Rulebook
from mallet.rulebook.steps import catalog_step
from mallet.stages.asks import others_of_quadrant
from mallet.terms.case import Case
from mallet.terms.errors import InputError
from mallet.terms.plan import Decision, StageResult, Step
from mallet.terms.reasons import say
from mallet.terms.restoration import SealantRestoration

CLEANING = {
    "brush_and_pumice": "brush and pumice",
    "fine_diamond": "very fine diamond",
    "air_abrasion": "air abrasion",
}


def _asked(case: Case) -> SealantRestoration:
    assert isinstance(case.restoration, SealantRestoration)
    return case.restoration


class Chain:
    """Steps one after another, each done on all teeth of a sitting before the next."""

    def __init__(self, case: Case, after: Sequence[str], rules: Rulebook) -> None:
        self.steps: list[Step] = []
        self._rules, self._after = rules, list(after)
        self._teeth = [case.tooth.code, *_asked(case).also]

    def add(self, name: str, told: dict[str, Any] | None = None, *, at_once: str = "", **fields: Any) -> None:
        """Add a step that takes its time on every tooth; what acts on all `at_once` takes that rule's time once, and a
        little more to reach each."""
        others = len(self._teeth) - 1
        if at_once:
            use = self._rules.use(at_once)
            fields |= {"seconds": use.value, "seconds_rule": use}
        fields["after"] = [self.steps[-1].id] if self.steps else self._after
        step = catalog_step(name, self._rules, told, **fields)
        if others:
            each_s = self._rules.value("sealant.reach_s") if at_once else step.seconds
            title = f"{step.title}: {', '.join(self._teeth)}"
            step = step.model_copy(update={"title": title, "seconds": step.seconds + others * each_s})
        self.steps.append(step)


def look_at_fissures(case: Case, after: str, rules: Rulebook) -> StageResult:
    """Return how the fissures are cleaned and looked at before anything is etched: enamel is not cut.

    Raises InputError for another tooth that is none of the quadrant, or is named twice.
    """
    allowed, also = others_of_quadrant(case.tooth.code), _asked(case).also
    for at, tooth in enumerate(also):
        if tooth not in allowed or tooth in also[:at]:
            raise InputError.at(f"restoration.also[{at}]", tooth, f"each once, of {', '.join(allowed)}")
    chain = Chain(case, [after], rules)
    way = _asked(case).cleaning
    chain.add("sealant.clean", dict.fromkeys(("how", "with", "and_with"), way))
    chain.add("sealant.look")
    cleaned = Decision(
        topic="prepare.cleaning",
        chosen=CLEANING[way],
        alternatives=[name for one, name in CLEANING.items() if one != way],
        reasons=[say("sealant.clean")],
    )
    return StageResult(says="enamel, not cut", decisions=[cleaned], steps=chain.steps)
