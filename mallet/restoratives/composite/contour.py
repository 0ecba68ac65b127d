"""Contour by the twin: what a rebuilt edge is measured and compared with.

How wide a tooth looks goes by how far its line angles stand apart, since what lies beyond them turns from the light. Source: common
practice, no source.
"""

from __future__ import annotations

from mallet.rulebook import Rulebook
from mallet.rulebook.steps import catalog_step
from mallet.stages.inputs import input_of
from mallet.terms.case import Case
from mallet.terms.errors import InputError
from mallet.terms.parts import IncisalFracture, StripCrownPreparation
from mallet.terms.pieces import Reason
from mallet.terms.plan import Decision, StageResult, Step, Target
from mallet.terms.reasons import say
from mallet.tooth import ToothName, read_tooth

AFTER_TRIM = "finish.trim"


def contour(case: Case, rules: Rulebook) -> StageResult:
    """Return how a rebuilt edge is compared with the twin once it is trimmed, its sizes measured where the twin's were; nothing where
    no edge of a front tooth is rebuilt.

    Raises InputError for line angles as far apart as the twin is wide.
    """
    own, parts = read_tooth(case.tooth.code), case.preparation.parts
    if own.is_posterior or not any(isinstance(one, IncisalFracture | StripCrownPreparation) for one in parts):
        return StageResult()
    twin = ToothName(own.across, own.position).iso
    told = case.twin
    if told.line_angles_mm and told.width_mm and told.line_angles_mm >= told.width_mm:
        raise InputError.at(
            "twin.line_angles_mm", told.line_angles_mm, f"less than its width, {told.width_mm:g}"
        )
    return StageResult(decisions=_decisions(case, twin, rules), steps=[_step(case, twin, rules)])


def _step(case: Case, twin: str, rules: Rulebook) -> Step:
    return catalog_step(
        "finish.contour", rules, {"twin": twin}, after=[AFTER_TRIM], targets=_targets(case, rules)
    )


def _targets(case: Case, rules: Rulebook) -> list[Target]:
    told, targets = case.twin, []
    if told.length_mm is not None:
        targets.append(
            _target(
                case, "length", "length", "from the gingiva to the edge, in the middle", told.length_mm,
                "Roughen it, bond and add composite at the edge: it is short of its twin.",
                "Take the edge down with a disc, then check the occlusion: it is longer than its twin.",
                rules,
            )
        )  # fmt: skip
    if told.line_angles_mm is not None:
        targets.append(
            _target(
                case, "line_angles", "line angles apart", "between the penciled lines, halfway up", told.line_angles_mm,
                "Move them apart: flatten the face between them with a disc.",
                "Bring them together: round the face beyond them with a disc.",
                rules,
            )
        )  # fmt: skip
    return targets


def _target(
    case: Case, name: str, title: str, detail: str, value: float, under: str, over: str, rules: Rulebook
) -> Target:
    off = rules.use("composite.contour_off_mm")
    return Target(
        id=name,
        title=title,
        detail=detail,
        unit="mm",
        is_height=False,
        value=value,
        low=round(value - off.value, 2),
        high=round(value + off.value, 2),
        under=under,
        over=over,
        rules=[off],
        inputs=[input_of(case, f"twin.{name}_mm", "mm")],
    )


def _decisions(case: Case, twin: str, rules: Rulebook) -> list[Decision]:
    """Return where the line angles go, where this tooth's room was measured as well as its twin's width."""
    told = case.twin
    if told.width_mm is None or told.own_width_mm is None:
        return []
    off = rules.use("composite.contour_off_mm")
    apart = f"{told.line_angles_mm:g} mm apart" if told.line_angles_mm else f"as far apart as on {twin}"
    return [
        Decision(
            topic="finish.contour",
            chosen=f"line angles {apart}",
            alternatives=[],
            reasons=[_reason(round(told.own_width_mm - told.width_mm, 2), off.value, twin)],
            rules=[off],
        )
    ]


def _reason(wider_mm: float, off_mm: float, twin: str) -> Reason:
    if wider_mm > off_mm:
        return say("finish.wider", by_mm=wider_mm, twin=twin)
    if wider_mm < -off_mm:
        return say("finish.narrower", by_mm=-wider_mm, twin=twin)
    return say("finish.as_wide", twin=twin)
