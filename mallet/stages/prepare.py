"""The preparation as measured: what its floor and margins mean for what follows."""

from __future__ import annotations

from collections.abc import Sequence

from mallet.cavity.neighbours import Beside
from mallet.cavity.preparation import Cavity
from mallet.rulebook import Rulebook
from mallet.stages.hand import hand_step
from mallet.stages.prepare_checks import checks_of, gauge
from mallet.stages.prepare_features import check_features, cut_features
from mallet.stages.prepare_margins import judge_margin
from mallet.terms.case import Case
from mallet.terms.parts import DovetailNotch, IncisalFracture
from mallet.terms.plan import Caution, Check, Decision, StageResult, Step, StepCheck
from mallet.terms.reasons import say, warn, warn_by

HARD = "hard all round"
PRACTICE = "Common practice, no source"


def judge_preparation(
    case: Case, cavity: Cavity, neighbours: Sequence[Beside], after: str, rules: Rulebook
) -> StageResult:
    """Return what the preparation is held against, and the verifying step, which comes after another one."""
    margins: list[tuple[str, float]] = [
        (box.side or "mesial", cavity.above_cervical_mm(box)) for box in cavity.boxes
    ]
    margins += [(cavity.access.side, cavity.gingival_margin_mm(neck)) for neck in cavity.necks]
    cautions = [c for side, above in margins if (c := _margin(side, above, rules))]
    least = rules.value("tooth.least_remaining_dentin_mm")
    left = cavity.remaining_dentin_mm
    check = Check(
        topic="remaining_dentin",
        title="Dentin left over the pulp",
        measured=round(left, 2),
        needed=least,
        relation="at_least",
        unit="mm",
        verdict="pass" if left >= least else "fail",
        remedy="Stop: look for an exposure and decide on protection before bonding.",
        where="deepest wall towards the pulp",
        rules=rules.uses("tooth.least_remaining_dentin_mm"),
    )
    scanned, more = _scanned(cavity, rules)
    cautions += more
    cautions += _pulp(left, cavity.handbook_dentin_mm, least, rules)
    cautions += _uncovered(case, cavity)
    endpoint, decay = _endpoint(case, cavity, rules)
    worn: list[Decision] = []
    steps: list[Step] = []
    if cavity.necks:
        worn, steps = _neck(case, after, rules)
    elif isinstance(case.face_part, IncisalFracture):
        worn, steps = _edge(case, case.face_part, after, rules)
    steps += cut_features(case, cavity, steps[-1].id if steps else after, rules)
    steps.append(_verify(endpoint, steps[-1].id if steps else after, rules))
    margin_checks, otherwise = judge_margin(case, cavity, rules)
    return StageResult(
        decisions=[*_spans(cavity), *decay, *scanned, *gauge(case, rules), *worn, *otherwise],
        checks=[
            check,
            *checks_of(case, cavity, neighbours, rules),
            *check_features(case, cavity, rules),
            *margin_checks,
        ],
        cautions=cautions,
        steps=steps,
    )


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
    if case.tooth.vitality == "root_filled":
        return [warn("caution", "prepare.cover_root_filled", PRACTICE)]
    return []


def _pulp(left: float, handbook: float, least: float, rules: Rulebook) -> list[Caution]:
    use = rules.use("tooth.least_remaining_dentin_mm")
    if handbook < least <= left:
        given, estimated = round(left, 1), round(handbook, 1)
        return [warn_by("caution", "pulp.disagrees", use, given_mm=given, estimated_mm=estimated)]
    if left < least:
        return [warn_by("stop", "pulp.very_close", use, remaining_mm=round(left, 2))]
    if left < 2 * least:
        return [warn_by("caution", "pulp.close", use, remaining_mm=round(left, 2))]
    return []


def _neck(case: Case, after: str, rules: Rulebook) -> tuple[list[Decision], list[Step]]:
    """Return how the worn surface of a neck lesion and its margin are made ready, by school."""
    bevels = case.school.neck_margin == "roughen_and_bevel"
    roughen = hand_step(
        id="prepare.roughen",
        title="Roughen the lesion",
        detail="Fine diamond over all of it, no deeper; the gum kept off with a cord.",
        rule=rules.use("prepare.roughen_s"),
        tray=["fine diamond, round", "cord and packer"],
        after=[after],
    )
    bevel = hand_step(
        id="prepare.bevel",
        title="Bevel the enamel margin",
        detail="Long and shallow on the enamel, never on root.",
        rule=rules.use("prepare.neck_bevel_s"),
        tray=["fine diamond, flame"],
        after=[roughen.id],
    )
    ways = {False: "roughened", True: "roughened, enamel bevelled"}
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
    """Return how the margin of a broken edge is made ready, by school."""
    reach = f"{part.bevel_mm:g} mm" if part.bevel_mm else "2 to 3 mm"
    shape = f", a star of {part.bevel_points} points" if part.bevel_mm and part.bevel_points else ""
    measured = next((one for one in case.preparation.parts if isinstance(one, DovetailNotch)), None)
    notched = case.school.incisal == "bevel_and_notch" or measured is not None
    size = f"{measured.width_mm:g} x {measured.height_mm:g} mm" if measured else "2 to 3 mm"
    bevel = hand_step(
        id="prepare.bevel",
        title="Bevel the fracture",
        detail=f"{reach} over the facial enamel{shape}, fading out; thin enamel at the edge rounded over.",
        rule=rules.use("prepare.edge_bevel_s"),
        tray=["fine diamond, flame"],
        after=[after],
    )
    notch = hand_step(
        id="prepare.notch",
        title="Notch on the tongue side",
        detail=f"A dovetail of {size}, in enamel and just into dentin.",
        rule=rules.use("prepare.edge_notch_s"),
        tray=["diamond, pear"],
        after=[bevel.id],
    )
    ways = {False: "bevelled", True: "bevelled, with a notch"}
    decision = Decision(
        topic="prepare.incisal",
        chosen=ways[notched],
        alternatives=[ways[not notched]],
        reasons=[say("prepare.edge_notch") if notched else say("prepare.edge_bevel")],
    )
    return [decision], [bevel, notch] if notched else [bevel]


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
    """Return how hard dentin is to be where decay was taken out, in words, and why; where there was none, just that
    it is hard all round."""
    if case.findings.cause not in ("decay", "decay_beside_filling"):
        return HARD, []
    deep = rules.use("prepare.deep_dentin_mm")
    left, acting = round(cavity.remaining_dentin_mm, 2), [deep]
    if case.school.decay == "to_hard":
        chosen, reason, acting = HARD, say("prepare.decay_hard"), []
    elif case.tooth.vitality != "vital":
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


def _verify(endpoint: str, after: str, rules: Rulebook) -> Step:
    return hand_step(
        id="prepare.verify",
        title="Verify the preparation",
        detail=f"Spoon and gentle probe: {endpoint}. Margins on sound tooth. Depths as planned.",
        rule=rules.use("chair.verify_s"),
        tray=["spoon excavator", "probe", "periodontal probe with millimetres"],
        after=[after],
        hold="preparation",
        check=StepCheck(
            question="Periphery hard, depths as planned, and still the right restorative now that it is open?",
            remedy="Remove what is softer than that, measure again, choose again and plan anew.",
            back_to="prepare.verify",
        ),
    )
