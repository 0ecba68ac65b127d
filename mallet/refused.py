"""Where there is no plan: why, and what of the practice's restoratives is left to choose."""

from __future__ import annotations

from collections.abc import Sequence

from mallet import ENGINE
from mallet.restoratives.registry import RESTORATIVES
from mallet.rulebook import Rulebook, load_rulebook
from mallet.stages.asks import asks_of, stage_names
from mallet.stages.assess import diagnosis_gate
from mallet.stages.choose import rank, stopped
from mallet.terms.canonical import sha256_of
from mallet.terms.case import Case
from mallet.terms.errors import NotFeasible
from mallet.terms.pieces import Reason
from mallet.terms.plan import STAGES, NoPlan, Option, PlanStage
from mallet.terms.restoration import PLANNED_AS, RESTORATIONS


def no_plan(case: Case, refusal: NotFeasible, book: Rulebook | None = None) -> NoPlan:
    """Return a refusal in the form of a plan."""
    rules = (book or load_rulebook()).with_house(case.practice_settings)
    names = stage_names(case.restoration.material)
    return NoPlan(
        engine=ENGINE,
        rulebook=rules.version,
        case_sha256=case_sha256(case),
        requirement=Reason(code=refusal.code, params={}, text=refusal.text),
        nearest=refusal.nearest,
        options=offered(rank(case, rules), case) if refusal.code == "choose.stopped" else [],
        stages=[
            PlanStage(id=stage, name=names[stage], asks=asks_of(case, stage, rules))
            for stage in STAGES
            if stage in names
        ],
    )


def offered(options: Sequence[Option], case: Case) -> list[Option]:
    """Return restoratives, each with whether it can be planned here: whether it takes what is cut. A way of the one that a case
    has already is none to change to."""
    others = {way for way, own in PLANNED_AS.items() if own != case.restoration.material}
    known = RESTORATIVES.keys() | others
    if case.option != case.restoration.material:
        known -= {case.restoration.material}
    cut = [part.model_dump(exclude_unset=True) for part in case.preparation.parts]
    known = {id for id in known if all(RESTORATIONS[PLANNED_AS.get(id, id)].takes(part) for part in cut)}
    return [one.model_copy(update={"can_be_planned": one.id in known}) for one in options]


def refusal_of(case: Case, book: Rulebook | None = None) -> NotFeasible | None:
    """Return why a tooth must not be restored as a case asks, by findings, patient and law: before anything is cut."""
    try:
        diagnosis_gate(case)
    except NotFeasible as refusal:
        return refusal
    return stopped(case, (book or load_rulebook()).with_house(case.practice_settings))


def case_sha256(case: Case) -> str:
    return sha256_of(case.model_dump(mode="json"))


def told_sha256(case: Case) -> str:
    """Return the digest of what a case tells: what it leaves out may be planned otherwise than the same value told."""
    return sha256_of(case.model_dump(mode="json", exclude_unset=True))
