"""What shapes a part that is entered from a face, and keeps it dry: a folded strip or a cord at a neck, strips
and an index for an anterior tooth."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from mallet.cavity.preparation import Cavity
from mallet.rulebook import Rulebook
from mallet.stages.hand import hand_step
from mallet.terms.case import Case
from mallet.terms.parts import IncisalFracture
from mallet.terms.plan import Decision, StageResult, Step, StepCheck
from mallet.terms.reasons import say

STRIP, FREE = "folded cervical strip", "free hand, cord in the sulcus"


@dataclass(frozen=True)
class Life:
    """What shapes a part that is entered from a face, over the run: before the acid, between bonding and placing, before
    dentin, and off again before trimming. The ids are of the steps after which each comes."""

    before: StageResult
    between: list[Step]
    index_off: Step | None
    off: list[Step]


def face_matrix(case: Case, cavity: Cavity, after: Sequence[str], rules: Rulebook) -> Life:
    """Return the matrix of a part that is entered from a face; `after` are the steps that must be done before.

    Strips part an anterior tooth from an adjacent one only where the contact is lost or opened.
    """
    if case.is_neck:
        return _neck(case, after, rules)
    has_index = case.restoration.is_shaped_by_index and isinstance(case.face_part, IncisalFracture)
    index = _index(after, rules) if has_index else StageResult()
    index_off = _index_off(rules) if has_index else None
    if not cavity.opened:
        return Life(index, [], index_off, [])
    strips = _strips([step.id for step in index.steps] or after, rules)
    before = StageResult(decisions=[*index.decisions, *strips.decisions], steps=[*index.steps, *strips.steps])
    return Life(before, [_change(rules)], index_off, [_strip_off(rules)])


def _index_off(rules: Rulebook) -> Step:
    return hand_step(
        id="matrix.front.index_off",
        title="Index off",
        detail="Draw it straight off to lingual, the wall held with an instrument.",
        rule=rules.use("matrix.front_off_s"),
    )


def _change(rules: Rulebook) -> Step:
    return hand_step(
        id="matrix.front.change",
        title="Change the strip",
        detail="Draw the dead-soft strip out, slide a clear one in past the margin; the wedge stays.",
        rule=rules.use("matrix.front_off_s"),
        tray=["clear strip"],
        check=StepCheck(
            question="Is the margin dry and the clear strip free of folds?",
            remedy="Wet: rinse, dry and bond again from the acid. Folded: set it again.",
            back_to="matrix.front.change",
        ),
    )


def _strip_off(rules: Rulebook) -> Step:
    return hand_step(
        id="matrix.front.off",
        title="Strip and wedge off",
        detail="Wedge out, strip drawn to facial; then probe the margin for tags and overhang.",
        rule=rules.use("matrix.front_off_s"),
        tray=["cotton forceps", "probe"],
    )


def _index(after: Sequence[str], rules: Rulebook) -> StageResult:
    """Return the trial of an index of putty that holds the lingual wall."""
    index = hand_step(
        id="matrix.front.index",
        title="Try the index",
        detail="Putty of the wax-up or mock-up, cut back to the edge; it seats on the teeth beside.",
        rule=rules.use("matrix.front_index_s"),
        tray=["putty index"],
        after=list(after),
        check=StepCheck(
            question="Does it seat without rocking, the margin exposed all along?",
            remedy="Trim what holds it off.",
            back_to="matrix.front.index",
        ),
    )
    chosen = Decision(
        topic="matrix.index",
        chosen="putty index",
        alternatives=["free hand"],
        reasons=[say("matrix.index")],
        rules=rules.uses("matrix.front_index_s"),
    )
    return StageResult(decisions=[chosen], steps=[index])


def _strips(after: Sequence[str], rules: Rulebook) -> StageResult:
    """Return the first of two strips of an anterior tooth, that for bonding."""
    soft = hand_step(
        id="matrix.front.strip",
        title="Dead-soft strip and wedge",
        detail="Dead-soft strip for acid and adhesive, wedge from facial.",
        rule=rules.use("matrix.front_strip_s"),
        tray=["dead-soft strip", "wedge"],
        after=list(after),
    )
    seal = hand_step(
        id="matrix.front.seal",
        role="seal",
        title="Test the strip",
        detail="Run the probe along the gingival margin; draw the strip tight during the light.",
        rule=rules.use("matrix.front_seal_s"),
        tray=["probe"],
        after=[soft.id],
        check=StepCheck(
            question="No fluid, no step at the gingival margin, and the strip drawn round without a fold?",
            remedy="The next wedge, or the strip set deeper.",
            back_to=soft.id,
        ),
    )
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
        cord = hand_step(
            id="matrix.neck.cord",
            title="Cord in the sulcus",
            detail="Thinnest cord that stays, packed without force, its end left out to draw it by.",
            rule=rules.use("matrix.neck_cord_s"),
            tray=["cord and packer"],
            after=list(after),
        )
        off = _neck_off("cord", "Cord out", "Wet it first, then draw it out with forceps.", rules)
        return Life(StageResult(decisions=[free], steps=[cord]), [], None, [off])
    strip = hand_step(
        id="matrix.neck.strip",
        title="Cervical strip in",
        detail="Clear strip folded and flared, its edge under the gingival margin. A fine bendable brush goes past it.",
        rule=rules.use("matrix.neck_strip_s"),
        tray=["clear strip", "cotton forceps", "fine bendable brush"],
        after=list(after),
    )
    seal = hand_step(
        id="matrix.neck.seal",
        role="seal",
        title="Pack and fix the strip",
        detail="Cotton or PTFE tape at both sides; unfilled resin at the gingiva, kept off the preparation; light on that.",
        rule=rules.use("matrix.neck_seal_s"),
        tray=["cotton", "PTFE tape", "unfilled resin"],
        after=[strip.id],
        check=StepCheck(
            question="Is it dry under the margin, with no step from tooth to strip?",
            remedy="Take it out, dry, and set it deeper.",
            back_to=strip.id,
        ),
    )
    chosen = Decision(
        topic="matrix.neck",
        chosen=STRIP,
        alternatives=[FREE],
        reasons=[say("matrix.neck_strip")],
        rules=rules.uses("matrix.neck_strip_s", "matrix.neck_seal_s"),
    )
    off = _neck_off(
        "strip",
        "Cervical strip off",
        "Cotton and fixing resin off, then the strip; probe for overhang.",
        rules,
    )
    return Life(StageResult(decisions=[chosen], steps=[strip, seal]), [], None, [off])


def _neck_off(worn: str, title: str, detail: str, rules: Rulebook) -> Step:
    return hand_step(
        id=f"matrix.neck.{worn}_off",
        title=title,
        detail=detail,
        rule=rules.use("matrix.front_off_s"),
        tray=["cotton forceps", "probe"],
    )
