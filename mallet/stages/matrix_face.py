"""What shapes a part that is entered from a face, and keeps it dry: a folded strip or a cord at a neck, strips
and an index for an anterior tooth."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from mallet.cavity.preparation import Cavity
from mallet.rulebook import Rulebook
from mallet.rulebook.steps import catalog_step
from mallet.terms.case import Case
from mallet.terms.parts import IncisalFracture
from mallet.terms.plan import Decision, StageResult, Step, Want
from mallet.terms.reasons import say
from mallet.terms.stock import MatrixBand

STRIP, FREE = "folded cervical strip", "free hand, cord in the sulcus"


@dataclass(frozen=True)
class Life:
    """What shapes a part that is entered from a face, over the run: before the acid, between bonding and placing, before
    dentin, and off again before trimming. What is fixed by resin was lit through it."""

    before: StageResult
    between: list[Step]
    index_off: Step | None
    off: list[Step]
    is_fixed: bool = False


def face_matrix(case: Case, cavity: Cavity, after: Sequence[str], rules: Rulebook) -> Life:
    """Return the matrix of a part that is entered from a face; `after` are the steps that must be done before.

    Strips part an anterior tooth from an adjacent one only where the contact is lost or opened.
    """
    if case.is_neck:
        return _neck(case, after, rules)
    has_index = case.restoration.is_shaped_by_index and isinstance(case.face_part, IncisalFracture)
    index = _index(after, rules) if has_index else StageResult()
    index_off = catalog_step("matrix.front_index_off", rules) if has_index else None
    # What is condensed wants no strip: a separator holds the teeth apart.
    if not cavity.opened or case.restoration.is_condensed:
        return Life(index, [], index_off, [])
    is_through = bool(cavity.from_face and cavity.from_face.is_through)
    strips = _strips([step.id for step in index.steps] or after, rules, is_through=is_through)
    before = StageResult(
        decisions=[*index.decisions, *strips.decisions],
        steps=[*index.steps, *strips.steps],
        wants=_strip_wanted(case),
    )
    return Life(
        before,
        [catalog_step("matrix.front_change", rules, {"through": is_through})],
        index_off,
        [catalog_step("matrix.front_off", rules)],
    )


def _index(after: Sequence[str], rules: Rulebook) -> StageResult:
    """Return the trial of an index of putty that holds the lingual wall."""
    index = catalog_step("matrix.front_index", rules, after=list(after))
    chosen = Decision(
        topic="matrix.index",
        chosen="putty index",
        alternatives=["free hand"],
        reasons=[say("matrix.index")],
        rules=rules.uses("matrix.front_index_s"),
    )
    return StageResult(decisions=[chosen], steps=[index])


def _strips(after: Sequence[str], rules: Rulebook, *, is_through: bool) -> StageResult:
    """Return the first of two strips of an anterior tooth, that for bonding."""
    soft = catalog_step("matrix.front_strip", rules, after=list(after))
    seal = catalog_step("matrix.front_seal", rules, {"through": is_through}, after=[soft.id])
    chosen = Decision(
        topic="matrix.front",
        chosen="two strips: dead-soft to bond, clear to fill",
        alternatives=["one clear strip"],
        reasons=[say("matrix.strips")],
        rules=rules.uses("matrix.front_strip_s", "matrix.front_seal_s"),
    )
    return StageResult(decisions=[chosen], steps=[soft, seal])


def _neck(case: Case, after: Sequence[str], rules: Rulebook) -> Life:
    """Return the strip where the margin lies below the gingiva."""
    if not case.findings.subgingival:
        free = Decision(
            topic="matrix.neck",
            chosen=FREE,
            alternatives=[STRIP],
            reasons=[say("matrix.neck_free")],
            rules=rules.uses("matrix.neck_cord_s"),
        )
        cord = catalog_step("matrix.neck_cord", rules, after=list(after))
        off = catalog_step("matrix.neck_cord_off", rules)
        return Life(StageResult(decisions=[free], steps=[cord]), [], None, [off])
    strip = catalog_step("matrix.neck_strip", rules, after=list(after))
    seal = catalog_step("matrix.neck_seal", rules, after=[strip.id])
    chosen = Decision(
        topic="matrix.neck",
        chosen=STRIP,
        alternatives=[FREE],
        reasons=[say("matrix.neck_strip")],
        rules=rules.uses("matrix.neck_strip_s", "matrix.neck_seal_s"),
    )
    off = catalog_step("matrix.neck_strip_off", rules)
    before = StageResult(decisions=[chosen], steps=[strip, seal], wants=_strip_wanted(case))
    return Life(before, [], None, [off], is_fixed=True)


def _strip_wanted(case: Case) -> list[Want]:
    """Return the thinnest strip in stock, where the practice keeps any bands there."""
    bands = [one for one in case.stock if isinstance(one, MatrixBand)]
    if not bands:
        return []
    strips = [one for one in bands if one.form == "strip"]
    found = min(strips, key=lambda one: (one.thickness_mm, one.name), default=None)
    name, lot = (found.name, found.lot) if found else (None, None)
    return [Want(kind="band", text="clear strip", name=name, lot=lot)]
