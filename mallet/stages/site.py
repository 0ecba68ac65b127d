"""The site: what is true of a cavity whatever fills it, and what is done until the restoration begins."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

from manifold3d import Manifold

from mallet.cavity.band import Band
from mallet.cavity.neighbours import Beside, place_neighbours
from mallet.cavity.preparation import Cavity, prepare_cavity
from mallet.rulebook import Rulebook
from mallet.stages.assess import assess
from mallet.stages.fissures import look_at_fissures
from mallet.stages.isolate import before_cutting, field_step, isolate
from mallet.stages.matrix import fit_matrix
from mallet.stages.matrix_face import Life, face_matrix
from mallet.stages.matrix_round import crown_form
from mallet.stages.prepare import judge_preparation
from mallet.stages.prepare_cuts import has_caries
from mallet.stages.protect import protect
from mallet.terms.case import Case
from mallet.terms.plan import Assumption, StageResult


@dataclass(frozen=True)
class Site:
    """A cavity with what stands around it. `dry` are the steps after which it is prepared, protected and dry, `ready` those
    that must be done before anything is placed; `life` is what shapes it from a face over the run, where anything does."""

    case: Case
    rules: Rulebook
    cavity: Cavity
    neighbours: Sequence[Beside]
    bands: Sequence[Band]
    life: Life | None
    dry: Sequence[str]
    ready: Sequence[str]
    stages: Sequence[StageResult]
    assumptions: Sequence[Assumption]

    @cached_property
    def beside(self) -> list[Manifold]:
        """Return the adjacent teeth as they stand in the cavity's frame."""
        return [self.cavity.access.turned(neighbour.solid) for neighbour in self.neighbours]


def site_of(case: Case, rules: Rulebook) -> Site:
    """Return the site of a case; raise InputError where it contradicts itself or the tooth, and NotFeasible where no
    restoration would do."""
    opened = prepare_cavity(case, rules)
    # Shaping a tooth for a form waits until its pulp is covered.
    waits = bool(opened.stump)
    after = "prepare.verify"
    if waits:
        after = "prepare.caries" if has_caries(case) else before_cutting(case)
    cavity, protection = protect(case, opened, after, rules)
    covered = [step.id for step in protection.steps[-1:]]
    neighbours, assumed = place_neighbours(case, cavity, rules)
    if case.restoration.is_in_enamel:
        preparation = look_at_fissures(case, before_cutting(case), rules)
    else:
        seen_to = covered[0] if waits and covered else None
        preparation = judge_preparation(case, cavity, neighbours, before_cutting(case), seen_to, rules)
    # Whatever covers the dentin is in place, and the field dry, before a band stands.
    verified = [step.id for step in preparation.steps[-1:]] or ["prepare.verify"]
    dry = verified if waits or not covered else covered
    if case.isolation.dam_on == "after_preparation" and not case.restoration.is_in_enamel:
        dry.append(field_step(case))
    sealed = [*dry, *case.restoration.before_band]
    bands, matrix = fit_matrix(case, cavity, neighbours, sealed, rules)
    life = face_matrix(case, cavity, sealed, rules) if cavity.from_face else None
    if life:
        matrix = life.before
    elif cavity.stump:
        matrix = crown_form(case, cavity.crown, sealed, rules)
    return Site(
        case=case,
        rules=rules,
        cavity=cavity,
        neighbours=neighbours,
        bands=bands,
        life=life,
        dry=dry,
        ready=[step.id for step in matrix.steps if step.role == "seal"] or sealed,
        stages=[
            assess(case, rules).as_stage("assess"),
            isolate(case, cavity.tooth, rules).as_stage("isolate"),
            preparation.as_stage("prepare"),
            protection.as_stage("protect"),
            matrix.as_stage("matrix"),
        ],
        assumptions=[*cavity.assumptions, *assumed],
    )
