"""The one door of the heart: a case goes in, a plan comes out. Composes site and restorative, nothing else."""

from __future__ import annotations

from functools import partial

from mallet import ENGINE
from mallet.refused import case_sha256, no_plan, offered, refusal_of, told_sha256
from mallet.restoratives.registry import RESTORATIVES
from mallet.restoratives.restorative import Points
from mallet.restoratives.worked import Worked
from mallet.rulebook import Rulebook, load_rulebook
from mallet.runsheet.account import account
from mallet.runsheet.schedule import schedule
from mallet.stages.asks import stage_names, title_of
from mallet.stages.assess import diagnosis_gate, not_confirmed
from mallet.stages.choose import NAMES as RESTORATIVE_NAMES
from mallet.stages.choose import choose
from mallet.stages.site import site_of
from mallet.stages.untold import with_untold
from mallet.terms.case import Case, get_path
from mallet.terms.errors import NotFeasible
from mallet.terms.plan import NoPlan, Plan, StageResult

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


def _weighed(chosen: StageResult, case: Case) -> StageResult:
    """Return what was chosen, with which of the others can be planned."""
    told = [one.model_copy(update={"options": offered(one.options, case)}) for one in chosen.decisions]
    return chosen.model_copy(update={"decisions": told})


def work(case: Case, book: Rulebook | None = None, points: Points = "none") -> Worked:
    """Return the plan of a case with its solids; raise NotFeasible where there is none."""
    rules = (book or load_rulebook()).with_house(case.practice_settings)
    for path in case.provenance:
        get_path(case, path)
    asked, restorative = case, RESTORATIVES[case.restoration.material]
    diagnosis_gate(case)
    chosen = _weighed(choose(case, rules), case).as_stage("choose")
    case, untold = with_untold(case, rules)
    case, completed = restorative.complete(case, rules)
    site = site_of(case, rules)
    built = restorative.build(site)
    stages = [*site.stages, chosen, *built.stages, built.finish().as_stage("finish")]
    in_order = partial(schedule, is_alone=case.pairs_of_hands == "one")
    timed = built.in_time(sorted(stages, key=lambda stage: stage.place), in_order)
    made = account(
        engine=ENGINE,
        case_sha256=case_sha256(asked),
        wanted_before=not_confirmed(asked),
        built=timed.built,
        increments=timed.built.increments(points),
        later=[one.model_copy(update={"steps": in_order(one.steps)}) for one in timed.built.later()],
        stages=timed.stages,
        steps=timed.steps,
        assumptions=[*site.assumptions, *untold, *completed],
    )
    return Worked(made, site, timed.built)
