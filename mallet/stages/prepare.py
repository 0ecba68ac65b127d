"""The preparation as measured: what its floor and margins mean for what follows."""

from __future__ import annotations

from collections.abc import Sequence

from mallet.cavity.neighbours import Beside
from mallet.cavity.preparation import Cavity
from mallet.cavity.tool import Tool
from mallet.rulebook import Rulebook
from mallet.rulebook.steps import catalog_step
from mallet.stages.prepare_checks import checks_of, gauge
from mallet.stages.prepare_cuts import cut, has_caries
from mallet.stages.prepare_features import check_features, cut_features, pin_wants
from mallet.stages.prepare_margins import judge_margin
from mallet.terms.case import Case
from mallet.terms.parts import CervicalLesion, IncisalFracture, LingualDovetail
from mallet.terms.pieces import RuleUse
from mallet.terms.plan import Caution, Check, Decision, StageResult, Step
from mallet.terms.reasons import say, warn, warn_by

HARD = "hard all round"
PRACTICE = "Common practice, no source"


def judge_preparation(
    case: Case, cavity: Cavity, neighbours: Sequence[Beside], after: str, covered: str | None, rules: Rulebook
) -> StageResult:
    """Return what the preparation is held against, and the verifying step, which comes after another one; `covered` is
    the step after which a pulp is covered that is seen to before the tooth is shaped."""
    # Where nothing is bonded, a margin in dentin is as good as one in enamel.
    bonded = case.restoration.is_bonded
    cautions = [
        *(c for box in cavity.boxes if bonded and (c := _box_margin(cavity, box, rules))),
        *(
            c
            for neck in cavity.necks
            if bonded and (c := _margin(cavity.access.side, cavity.gingival_margin_mm(neck), rules))
        ),
    ]
    left_check, near = _over_pulp(case, cavity, rules)
    scanned, more = _scanned(cavity, rules)
    cautions += more
    cautions += near
    cautions += _uncovered(case, cavity)
    if bonded and isinstance(case.face_part, IncisalFracture):
        cautions += [*_short_bevel(case.face_part, rules), *_notch_in_deep_bite(case)]
    decay, worn, steps = _cutting(case, cavity, after, covered, rules)
    margin_checks, otherwise = judge_margin(case, cavity, rules)
    return StageResult(
        says=_over(cavity),
        decisions=[*_spans(cavity), *decay, *scanned, *gauge(case, rules), *worn, *otherwise],
        checks=[
            *left_check,
            *checks_of(case, cavity, neighbours, rules),
            *check_features(case, cavity, rules),
            *margin_checks,
        ],
        cautions=cautions,
        wants=pin_wants(case),
        steps=steps,
    )


def _over(cavity: Cavity) -> str:
    if cavity.chamber:
        return "coronal pulp removed"
    return f"{cavity.remaining_dentin_mm:.1f} mm over the pulp" if cavity.pulp else "no vital pulp"


def _cutting(
    case: Case, cavity: Cavity, after: str, covered: str | None, rules: Rulebook
) -> tuple[list[Decision], list[Decision], list[Step]]:
    """Return how far caries is taken out, how the margin is made ready, and the steps up to the last look; nothing where the
    restorative says itself how the tooth is cut."""
    if case.restoration.cuts_for_itself:
        return [], [], []
    bonded = case.restoration.is_bonded
    endpoint, decay = _endpoint(case, cavity, rules)
    worn: list[Decision] = []
    steps = cut(case, cavity, endpoint, after, rules)
    last = steps[-1].id if steps else after
    shaping: list[Step] = []
    if bonded and cavity.necks:
        worn, shaping = _neck(case, last, rules)
    elif bonded and isinstance(case.face_part, IncisalFracture):
        worn, shaping = _edge(case, case.face_part, last, rules)
    steps += shaping
    steps += cut_features(case, cavity, covered or (steps[-1].id if steps else after), rules)
    return decay, worn, [*steps, _verify(case, endpoint, steps[-1].id if steps else after, rules)]


def _scanned(cavity: Cavity, rules: Rulebook) -> tuple[list[Decision], list[Caution]]:
    """Return that the cavity is a scanned one, and where that is not what was measured."""
    if cavity.scanned is None:
        return [], []
    told = {"scanned_mm3": cavity.filling.volume(), "measured_mm3": cavity.scanned.measured_mm3}
    use = rules.use("prepare.scan_differs_share")
    decision = Decision(
        topic="prepare.scan",
        chosen=f"as scanned, {told['scanned_mm3']:.1f} mm\u00b3",
        alternatives=["as measured"],
        reasons=[say("prepare.scanned", measured_mm3=told["measured_mm3"])],
        rules=[use],
    )
    differs = abs(told["scanned_mm3"] / told["measured_mm3"] - 1) > use.value
    return [decision], [warn_by("caution", "prepare.scan_differs", use, **told)] if differs else []


def _uncovered(case: Case, cavity: Cavity) -> list[Caution]:
    """Return why cusps are to be covered whatever the shares say, where none is."""
    if not cavity.boxes or cavity.covered:
        return []
    if case.findings.cracked:
        return [warn("caution", "prepare.cover_cracked", PRACTICE)]
    if case.tooth.vitality == "root_canal_treated":
        return [warn("caution", "prepare.cover_root_filled", PRACTICE)]
    return []


def _over_pulp(case: Case, cavity: Cavity, rules: Rulebook) -> tuple[list[Check], list[Caution]]:
    """Return the check of the dentin left over a living pulp, and what to be careful with; nothing, where there is none
    or it shows already."""
    if not cavity.pulp or case.protection.exposure != "none":
        return [], []
    use, left = rules.use("tooth.least_remaining_dentin_mm"), cavity.remaining_dentin_mm
    least, told = use.value, case.preparation.remaining_dentin_mm is not None
    check = Check(
        topic="remaining_dentin",
        title="Dentin left over the pulp",
        measured=round(left, 2),
        needed=least,
        relation="at_least",
        unit="mm",
        verdict="pass" if left >= least else "fail",
        remedy=(
            "Stop: look for an exposure and decide on protection before bonding."
            if told
            else "Measure on the radiograph: by the handbook's average pulp it is near this depth."
        ),
        where="deepest wall toward the pulp" if told else "deepest wall, by the handbook's average pulp",
        rules=rules.uses("tooth.least_remaining_dentin_mm"),
    )
    return [check], _pulp(case, cavity, use)


def _pulp(case: Case, cavity: Cavity, use: RuleUse) -> list[Caution]:
    left, handbook, least = cavity.remaining_dentin_mm, cavity.handbook_dentin_mm, use.value
    if case.preparation.remaining_dentin_mm is None:
        if left >= 2 * least:
            return []
        return [warn_by("caution", "pulp.by_handbook", use, remaining_mm=round(left, 1))]
    if left < least:
        return [warn_by("stop", "pulp.very_close", use, remaining_mm=round(left, 2))]
    # A liner or base that is planned answers it.
    is_covered = bool(cavity.bases) or case.protection.what in ("liner", "base")
    found = []
    if left < 2 * least and not is_covered:
        found.append(warn_by("caution", "pulp.close", use, remaining_mm=round(left, 2)))
    if handbook < least <= left:
        given, estimated = round(left, 1), round(handbook, 1)
        found.append(warn_by("note", "pulp.disagrees", use, given_mm=given, estimated_mm=estimated))
    return found


def _neck(case: Case, after: str, rules: Rulebook) -> tuple[list[Decision], list[Step]]:
    """Return how the worn surface of a neck lesion and its margin are made ready, by technique."""
    bevels = case.techniques.cervical_margin == "roughen_and_bevel"
    roughen = catalog_step("prepare.roughen", rules, after=[after])
    bevel = catalog_step("prepare.neck_bevel", rules, {"bevel_mm": _bevel_mm(case)}, after=[roughen.id])
    ways = {False: "roughened", True: "roughened, enamel beveled"}
    decision = Decision(
        topic="prepare.neck",
        chosen=ways[bevels],
        alternatives=[ways[not bevels]],
        reasons=[say("prepare.neck_bevel") if bevels else say("prepare.neck_roughen")],
    )
    return [decision], [roughen, bevel] if bevels else [roughen]


def _edge(
    case: Case, part: IncisalFracture, after: str, rules: Rulebook
) -> tuple[list[Decision], list[Step]]:
    """Return how the margin of a broken edge is made ready, by technique."""
    measured = next((one for one in case.preparation.parts if isinstance(one, LingualDovetail)), None)
    notched = case.techniques.incisal == "bevel_and_notch" or measured is not None
    told = dict.fromkeys(("size", "depth"), "measured" if measured else "usual")
    notch = catalog_step(
        "prepare.edge_notch", rules, {**told, **(measured.model_dump() if measured else {})}, after=[after]
    )
    beveled = {"bevel_mm": part.bevel_mm or 0.0, "star": part.bevel_points, "points": part.bevel_points}
    bevel = catalog_step("prepare.edge_bevel", rules, beveled, after=[notch.id if notched else after])
    ways = {False: "beveled", True: "beveled, with a notch"}
    decision = Decision(
        topic="prepare.incisal",
        chosen=ways[notched],
        alternatives=[ways[not notched]],
        reasons=[say("prepare.edge_notch") if notched else say("prepare.edge_bevel")],
    )
    return [decision], [*([notch] if notched else []), *([bevel] if part.bevel_mm else [])]


def _short_bevel(part: IncisalFracture, rules: Rulebook) -> list[Caution]:
    use = rules.use("prepare.edge_bevel_least_mm")
    if (part.bevel_mm or 0.0) >= use.value:
        return []
    return [warn_by("caution", "prepare.short_bevel", use, bevel_mm=part.bevel_mm or 0.0)]


def _notch_in_deep_bite(case: Case) -> list[Caution]:
    """Return that a deep overbite works against a notch, where one is cut."""
    has_notch = any(isinstance(part, LingualDovetail) for part in case.preparation.parts)
    if case.findings.overbite == "deep" and (has_notch or case.techniques.incisal == "bevel_and_notch"):
        return [warn("caution", "prepare.deep_bite_notch", PRACTICE)]
    return []


def _bevel_mm(case: Case) -> float:
    return next((p.bevel_mm or 0.0 for p in case.preparation.parts if isinstance(p, CervicalLesion)), 0.0)


def _box_margin(cavity: Cavity, box: Tool, rules: Rulebook) -> Caution | None:
    """Return what the place of a box's gingival margin means: as it was seen, else by the handbook's cementoenamel junction."""
    side, above = box.side or "mesial", cavity.above_cej_mm(box)
    if box.margin_in == "dentin":
        return warn("caution", "margin.seen_in_dentin", PRACTICE, side=side)
    return None if box.margin_in == "enamel" else _margin(side, above, rules)


def _margin(side: str, above: float, rules: Rulebook) -> Caution | None:
    if above < 0:
        return warn("caution", "margin.in_dentin", PRACTICE, side=side, below_mm=round(-above, 1))
    if above < rules.value("tooth.thin_enamel_mm"):
        return warn("note", "margin.thin_enamel", PRACTICE, side=side, above_mm=round(above, 1))
    return None


def _spans(cavity: Cavity) -> list[Decision]:
    if not cavity.spans_walls:
        return []
    length, given = cavity.spans_walls
    reason = say("occlusal_box.meets_walls", length_mm=round(length, 2), given_mm=given)
    chosen = f"length {length:.2f} mm"
    return [Decision(topic="prepare.occlusal_box", chosen=chosen, alternatives=[], reasons=[reason])]


def _endpoint(case: Case, cavity: Cavity, rules: Rulebook) -> tuple[str, list[Decision]]:
    """Return how hard dentin is to be where caries is taken out, in words, and why: by depth and pulp, whatever the
    reason for treatment; where no caries is found there is nothing to decide."""
    deep = rules.use("prepare.deep_dentin_mm")
    left, acting = round(cavity.remaining_dentin_mm, 2), [deep]
    if not has_caries(case):
        return HARD, []
    if case.protection.exposure != "none":
        chosen, reason, acting = HARD, say("prepare.decay_exposed"), []
    elif case.techniques.caries == "to_hard":
        chosen, reason, acting = HARD, say("prepare.decay_hard"), []
    elif not case.has_living_pulp:
        chosen, reason, acting = HARD, say("prepare.decay_dead"), []
    elif left < deep.value:
        chosen, reason = "soft over the pulp, hard at the edge", say("prepare.decay_soft", left_mm=left)
    else:
        chosen, reason = "firm over the pulp, hard at the edge", say("prepare.decay_firm")
    others = [way for way in (HARD, "firm over the pulp", "soft over the pulp") if not chosen.startswith(way)]
    decision = Decision(
        topic="prepare.decay", chosen=chosen, alternatives=others, reasons=[reason], rules=acting
    )
    return chosen, [decision]


def _verify(case: Case, endpoint: str, after: str, rules: Rulebook) -> Step:
    has_any = has_caries(case)
    told = {"spoon": has_any, "hard": has_any, "endpoint": endpoint}
    return catalog_step("prepare.verify", rules, told, after=[after])
