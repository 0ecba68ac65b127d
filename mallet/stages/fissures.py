"""Fissures that are sealed: cleaned and looked at, not cut, on one tooth or on several of a quadrant."""

from __future__ import annotations

from collections.abc import Sequence

from mallet.rulebook import Rulebook
from mallet.stages.asks import others_of_quadrant
from mallet.stages.hand import hand_step
from mallet.terms.case import Case
from mallet.terms.errors import InputError
from mallet.terms.plan import Decision, StageResult, Step, StepCheck
from mallet.terms.reasons import say
from mallet.terms.restoration import SealantRestoration

CLEANING = {
    "brush_and_pumice": ("Brush and pumice along the fissures, then rinse.", ["pumice", "pointed brush"]),
    "fine_diamond": ("Very fine diamond, along the fissures only, no deeper than enamel.", ["very fine diamond"]),
    "air_abrasion": ("Air abrasion along the fissures; high suction, eyes covered.", ["air abrasion", "high suction"]),
}  # fmt: skip


def _asked(case: Case) -> SealantRestoration:
    assert isinstance(case.restoration, SealantRestoration)
    return case.restoration


class Chain:
    """Steps one after another, each done on all teeth of a sitting before the next."""

    def __init__(self, case: Case, after: Sequence[str], rules: Rulebook) -> None:
        self.steps: list[Step] = []
        self._rules, self._after = rules, list(after)
        self._teeth = [case.tooth.code, *_asked(case).also]

    def add(
        self, id: str, title: str, detail: str, rule: str, *, at_once: bool = False, **more: object
    ) -> None:
        """Add a step that takes its time on every tooth; `at_once`, what acts on all takes it once, and a little more to
        reach each."""
        use, others = self._rules.use(rule), len(self._teeth) - 1
        each_s = self._rules.value("sealant.reach_s") if at_once else use.value
        told = {"after": [self.steps[-1].id] if self.steps else self._after, **more}
        step = hand_step(id=id, title=title, detail=detail, rule=use, **told)
        if others:
            more_s = step.seconds + others * each_s
            step = step.model_copy(update={"title": f"{title}: {', '.join(self._teeth)}", "seconds": more_s})
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
    how, tray = CLEANING[_asked(case).cleaning]
    chain.add("prepare.clean", "Clean the fissures", how, "sealant.clean_s", tray=tray)
    chain.add(
        "prepare.look",
        "Dry and look again",
        "Dried and lit; no probe is pressed in.",
        "sealant.look_s",
        tray=["air syringe", "mirror"],
        check=StepCheck(
            question="No caries under the fissures, and can they be kept dry?",
            remedy="Caries: open it where it is carious and restore it. Wet: glass ionomer for now, and a review.",
            back_to="prepare.clean",
        ),
    )
    words = {
        "brush_and_pumice": "brush and pumice",
        "fine_diamond": "very fine diamond",
        "air_abrasion": "air abrasion",
    }
    chosen = words[_asked(case).cleaning]
    cleaned = Decision(
        topic="prepare.cleaning",
        chosen=chosen,
        alternatives=[one for one in words.values() if one != chosen],
        reasons=[say("sealant.clean")],
    )
    return StageResult(says="enamel, not cut", decisions=[cleaned], steps=chain.steps)
