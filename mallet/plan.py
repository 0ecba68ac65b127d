"""The one door of the heart: a case goes in, a plan comes out. Composes site and restorative, nothing else."""

from __future__ import annotations

from collections.abc import Sequence

from mallet import ENGINE
from mallet.restoratives.registry import RESTORATIVES
from mallet.restoratives.restorative import Points
from mallet.restoratives.worked import Worked
from mallet.rulebook import Rulebook, load_rulebook
from mallet.runsheet.account import account
from mallet.runsheet.schedule import schedule
from mallet.stages.asks import asks_of, stage_names, title_of
from mallet.stages.assess import diagnosis_gate, not_confirmed
from mallet.stages.choose import NAMES as RESTORATIVE_NAMES
from mallet.stages.choose import choose, rank
from mallet.stages.site import site_of
from mallet.stages.untold import with_untold
from mallet.terms.canonical import sha256_of
from mallet.terms.case import Case, get_path
from mallet.terms.errors import NotFeasible
from mallet.terms.pieces import Reason
from mallet.terms.plan import STAGES, NoPlan, Option, Plan, PlanStage, StageResult

__all__ = [
    "RESTORATIVE_NAMES", "Points", "Worked", "case_sha256", "no_plan", "not_confirmed", "plan", "refusal_of", "stage_names", "title_of", "told_sha256", "work",
]  # fmt: skip


def plan(case: Case, book: Rulebook | None = None, points: Points = "none") -> Plan | NoPlan:
    """Return the plan of a case, or why there is none; with the light at the dimmest points of each increment, or at
    200 points and more all over it.

    Pure: the same case, rulebook and engine give the same plan. Raises InputError for a case that
    contradicts itself or the tooth.
    """
    try:
        return work(case, book, points).plan
    except NotFeasible as refusal:
        return no_plan(case, refusal, book)


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
        options=_offered(rank(case, rules)) if refusal.code == "choose.stopped" else [],
        stages=[
            PlanStage(id=stage, name=names[stage], asks=asks_of(case, stage))
            for stage in STAGES
            if stage in names
        ],
    )


def _offered(options: Sequence[Option]) -> list[Option]:
    """Return restoratives, each with whether it can be planned here."""
    return [one.model_copy(update={"can_be_planned": one.id in RESTORATIVES}) for one in options]


def _weighed(chosen: StageResult) -> StageResult:
    """Return what was chosen, with which of the others can be planned."""
    told = [one.model_copy(update={"options": _offered(one.options)}) for one in chosen.decisions]
    return chosen.model_copy(update={"decisions": told})


def refusal_of(case: Case, book: Rulebook | None = None) -> NotFeasible | None:
    """Return why a tooth must not be restored as a case asks, by findings, patient and law: before anything is cut."""
    try:
        diagnosis_gate(case)
        choose(case, (book or load_rulebook()).with_house(case.practice_settings))
    except NotFeasible as refusal:
        return refusal
    return None


def case_sha256(case: Case) -> str:
    return sha256_of(case.model_dump(mode="json"))


def told_sha256(case: Case) -> str:
    """Return the digest of what a case tells: what it leaves out may be planned otherwise than the same value told."""
    return sha256_of(case.model_dump(mode="json", exclude_unset=True))


def work(case: Case, book: Rulebook | None = None, points: Points = "none") -> Worked:
    """Return the plan of a case with its solids; raise NotFeasible where there is none."""
    rules = (book or load_rulebook()).with_house(case.practice_settings)
    for path in case.provenance:
        get_path(case, path)
    asked, restorative = case, RESTORATIVES[case.restoration.material]
    diagnosis_gate(case)
    chosen = _weighed(choose(case, rules)).as_stage("choose")
    case, untold = with_untold(case, rules)
    case, completed = restorative.complete(case, rules)
    site = site_of(case, rules)
    built = restorative.build(site)
    stages = [*site.stages, chosen, *built.stages, built.finish().as_stage("finish")]
    timed = built.in_time(sorted(stages, key=lambda stage: stage.place), schedule)
    made = account(
        engine=ENGINE,
        case_sha256=case_sha256(asked),
        wanted_before=not_confirmed(asked),
        built=timed.built,
        increments=timed.built.increments(points),
        stages=timed.stages,
        steps=timed.steps,
        assumptions=[*site.assumptions, *untold, *completed],
    )
    return Worked(made, site, timed.built)
