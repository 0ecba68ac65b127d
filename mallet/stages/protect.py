"""Protect: nothing, a liner or a base, by the dentin that is left, what stock has and the technique."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from typing import Literal

from mallet.cavity.base import over_floor_mm, room_mm, with_base
from mallet.cavity.preparation import Cavity
from mallet.cavity.tool import Tool
from mallet.rulebook import Rulebook
from mallet.stages.primary_pulp import treat_primary_pulp
from mallet.stages.protect_steps import (
    IONOMER,
    OPENED,
    SILICATE,
    SUBSTANCES,
    Cover,
    Taken,
    protect_steps,
    sealed_steps,
)
from mallet.terms.case import Case
from mallet.terms.errors import InputError
from mallet.terms.pieces import Reason
from mallet.terms.plan import Caution, Check, Decision, StageResult, Want
from mallet.terms.reasons import refuse, say, warn, warn_by
from mallet.terms.stock import Base, Liner
from mallet.tooth import read_tooth

NOT_TOLD = "by the handbook"
PRACTICE = "Common practice, no source"
TEXTBOOKS = "Textbooks of operative dentistry (from memory)"
ON_PULP = (SILICATE, "calcium_hydroxide")


def protect(case: Case, cavity: Cavity, after: str, rules: Rulebook) -> tuple[Cavity, StageResult]:
    """Return the cavity with the base that is laid in it, if any, and what the plan says of it; its steps come after
    another one.

    Raises NotFeasible where the pulp shows and nobody has decided, or where what covers the dentin wants
    a visit of its own; InputError for a material that does not stand in stock and for a base without
    room.
    """
    _exposure_gate(case)
    is_capped = case.protection.exposure in OPENED
    reasons = _why_nothing(case, cavity, rules)
    if reasons:
        return cavity, StageResult(decisions=[_decision(_nothing(case), reasons, rules)])
    if cavity.stump:
        _no_floor_gate(case)
    taken = _take(case, cavity, rules)
    treated = treat_primary_pulp(case, rules)
    reasons = [*_why_something(case, cavity), taken.reason, *treated.reasons]
    laid, cautions = cavity, [*_cautions(case, cavity, taken), *treated.cautions]
    seal = _seal(case, rules) if _is_sealed_over(case, cavity) else None
    cautions += _against_resin(case, [taken, *([seal] if seal else [])])
    if seal:
        over = ["protect.over_pulp_mm"] if cavity.chamber else []
        return cavity, StageResult(
            decisions=[_decision(f"{taken.name}, sealed over", reasons, rules, *over)],
            cautions=cautions,
            assumptions=treated.assumptions,
            steps=sealed_steps(case, cavity, taken, seal, after, rules),
            wants=[_want(taken), _want(seal)] if case.stock or taken.at is not None else [],
        )
    if isinstance(taken.cover, Base):
        laid, missed = _lay(case, cavity, taken.cover, rules)
        if missed and not laid.bases and not is_capped:
            # A cap is placed wherever it finds room; nothing else is squeezed in.
            why = [say("protect.sealed_instead", left_mm=round(cavity.remaining_dentin_mm, 2))]
            return cavity, StageResult(decisions=[_decision(_nothing(case), why, rules)], cautions=missed)
        cautions += missed
    chosen = taken.name
    if laid.bases:
        chosen += f", {laid.bases[0].thickness_mm:.1f} mm"
    return laid, StageResult(
        decisions=[_decision(chosen, reasons, rules)],
        checks=_clearance(laid, taken, rules),
        cautions=cautions,
        assumptions=treated.assumptions,
        steps=protect_steps(case, taken, after, rules),
        wants=[_want(taken)] if case.stock or taken.at is not None else [],
    )


def _seal(case: Case, rules: Rulebook) -> Taken:
    return _first(_covers(case), [_is(IONOMER)]) or _any_liner(rules)


def _against_resin(case: Case, covers: Sequence[Taken]) -> list[Caution]:
    """Return that what is taken holds the resin that the patient is allergic to, where it does."""
    if "resin" not in case.patient.allergies or all(one.cover.substance != IONOMER for one in covers):
        return []
    return [warn("stop", "protect.resin", "Patient's history")]


def _is_sealed_over(case: Case, cavity: Cavity) -> bool:
    """Tell whether what lies on an open pulp is sealed over at once: the emptied chamber takes it, or no floor bears what
    would be built up on it."""
    return bool(cavity.chamber) or (case.protection.exposure in OPENED and bool(cavity.stump))


def _no_floor_gate(case: Case) -> None:
    """Refuse a base on a tooth that is prepared all round."""
    asked = case.protection
    if asked.what == "base":
        raise InputError.at("protection.what", "base", "nothing or liner: no floor here bears a base")
    named = next((one for _, one in _covers(case) if one.name == asked.material), None)
    if isinstance(named, Base) and asked.exposure not in OPENED:
        allowed = ", ".join(one.name for _, one in _covers(case) if isinstance(one, Liner))
        raise InputError.at(
            "protection.material", named.name, allowed or "a liner: no floor here bears a base"
        )


def _covers(case: Case) -> list[tuple[int, Cover]]:
    return [(i, one) for i, one in enumerate(case.stock) if isinstance(one, Base | Liner)]


def _nothing(case: Case) -> str:
    return f"nothing: {case.restoration.seals_by} seals"


def _exposure_gate(case: Case) -> None:
    got = case.protection.exposure
    if got != "none" and case.tooth.vitality != "vital":
        raise InputError.at("protection.exposure", got, "none: no vital pulp")
    if got == "undecided":
        is_primary = read_tooth(case.tooth.code).is_deciduous
        raise refuse("protect.primary_pulp_shows" if is_primary else "protect.pulp_shows")
    if got == "root_canal_treatment":
        raise refuse("protect.root_treatment")


def _why_nothing(case: Case, cavity: Cavity, rules: Rulebook) -> list[Reason]:
    """Return why nothing is put between dentin and restoration; nothing, where something is."""
    asked, left = case.protection, round(cavity.remaining_dentin_mm, 2)
    if asked.exposure in OPENED or asked.placed_days_ago is not None:
        return []
    if asked.what == "nothing":
        return [say("protect.asked", what="nothing")]
    if asked.what in ("liner", "base") or asked.material is not None:
        return []
    if case.tooth.vitality != "vital":
        return [say("protect.no_pulp")]
    if left >= rules.value("protect.nothing_from_mm"):
        return [say("protect.thick", left_mm=left)]
    if left >= rules.value("tooth.least_remaining_dentin_mm"):
        return [say("protect.sealed", left_mm=left)]
    return []


def _why_something(case: Case, cavity: Cavity) -> list[Reason]:
    if case.protection.exposure in OPENED:
        return [say("protect.capping" if case.protection.exposure == "cap" else "protect.pulpotomy")]
    if (days := case.protection.placed_days_ago) is not None:
        return [say("protect.placed_before", days=days)]
    if case.protection.what in ("liner", "base"):
        return [say("protect.asked", what=f"a {case.protection.what}")]
    if case.protection.material is not None:
        return []
    return [say("protect.deep", left_mm=round(cavity.remaining_dentin_mm, 2))]


def _decision(chosen: str, reasons: list[Reason], rules: Rulebook, *more: str) -> Decision:
    ways = ["nothing", "liner", "base"]
    others = [way for way in ways if way not in chosen.partition(":")[0]]
    used = rules.uses("protect.nothing_from_mm", "tooth.least_remaining_dentin_mm", *more)
    return Decision(topic="protect", chosen=chosen, alternatives=others, reasons=reasons, rules=used)


def _take(case: Case, cavity: Cavity, rules: Rulebook) -> Taken:
    """Return what covers the dentin: what is asked for, else the first kind that stock has.

    Calcium silicate comes first where it can be bonded over at once, then a resin-modified ionomer, which
    bonds by itself; calcium hydroxide last.
    """
    asked = case.protection
    stock = _covers(case)
    if asked.material is not None:
        found = [(i, one) for i, one in stock if one.name == asked.material]
        if not found:
            names = ", ".join(one.name for _, one in stock)
            raise InputError.at(
                "protection.material", asked.material, names or "none: there is no base or liner"
            )
        at, cover = found[0]
        if asked.exposure in OPENED and cover.substance not in ON_PULP:
            raise InputError.at(
                "protection.material", cover.name, "calcium silicate or calcium hydroxide: the pulp is open"
            )
        if cover.substance == SILICATE:
            _second_visit_gate(case, cavity, rules)
        return Taken(cover, at, say("protect.named", name=cover.name))
    if asked.exposure in OPENED:
        _second_visit_gate(case, cavity, rules)
        return _first(stock, [_is(SILICATE)]) or _any_base(rules, SILICATE)
    can_silicate = _silicate_waits_days(case, cavity, rules) == 0
    kinds: list[Callable[[Cover], bool]] = []
    if asked.what != "liner" and not cavity.stump:
        kinds += [_is(SILICATE)] if can_silicate else []
        kinds.append(lambda one: isinstance(one, Base) and one.substance == IONOMER)
    if asked.what != "base":
        kinds += [
            lambda one: isinstance(one, Liner) and one.substance == IONOMER,
            _is("calcium_hydroxide"),
        ]
    if taken := _first(stock, kinds):
        return taken
    if cavity.stump or asked.what == "liner":
        return _any_liner(rules)
    if not can_silicate and any(one.substance == SILICATE for _, one in stock):
        _second_visit_gate(case, cavity, rules)
    return _any_base(rules, SILICATE if can_silicate else IONOMER)


def _is(substance: str) -> Callable[[Cover], bool]:
    return lambda one: one.substance == substance


def _first(stock: list[tuple[int, Cover]], kinds: list[Callable[[Cover], bool]]) -> Taken | None:
    for is_kind in kinds:
        for at, one in stock:
            if is_kind(one):
                return Taken(
                    one, at, say("protect.from_shelf", name=one.name, what=SUBSTANCES[one.substance])
                )
    return None


def _any_liner(rules: Rulebook) -> Taken:
    """Return a liner with the handbook's properties, where stock has none."""
    most, set_s = rules.value("protect.liner_mm"), rules.value("protect.ionomer_set_s")
    cover = Liner(kind="liner", name=NOT_TOLD, substance=IONOMER, most_mm=most, set_s=set_s)
    return Taken(cover, None, say("protect.none_on_shelf", what=SUBSTANCES[IONOMER]))


def _any_base(rules: Rulebook, substance: Literal["calcium_silicate", "resin_modified_ionomer"]) -> Taken:
    """Return a base with the handbook's properties, where stock has none."""
    if substance == SILICATE:
        set_s, soft_s = rules.value("protect.silicate_set_s"), rules.value("protect.silicate_soft_s")
    else:
        set_s, soft_s = rules.value("protect.ionomer_set_s"), 0.0
    cover = Base(
        kind="base",
        name=NOT_TOLD,
        substance=substance,
        set_s=set_s,
        soft_until_s=min(soft_s, set_s),
        least_above_mm=rules.value("protect.least_above_mm"),
    )
    return Taken(cover, None, say("protect.none_on_shelf", what=SUBSTANCES[substance]))


def _silicate_waits_days(case: Case, cavity: Cavity, rules: Rulebook) -> int:
    """Return how many days a calcium silicate base still has to wait before it is bonded over."""
    days = round(rules.value("protect.second_visit_days"))
    since = case.protection.placed_days_ago
    if _is_sealed_over(case, cavity):
        return 0
    if since is not None and since >= days:
        return 0
    school = case.techniques.silicate
    if school == "same_visit" or (school == "by_enamel" and not cavity.margins_in_dentin):
        return 0
    return days - (since or 0)


def _second_visit_gate(case: Case, cavity: Cavity, rules: Rulebook) -> None:
    if waits := _silicate_waits_days(case, cavity, rules):
        days = round(rules.value("protect.second_visit_days"))
        nearest: dict[str, object] = {"protection.placed_days_ago": days, "techniques.silicate": "same_visit"}
        raise refuse("protect.second_visit", nearest, days=days, waits_days=waits)


def _lay(case: Case, cavity: Cavity, cover: Base, rules: Rulebook) -> tuple[Cavity, list[Caution]]:
    """Return the cavity with bases on the walls that are nearest to the pulp, and where there is no room."""
    wanted = case.protection.base_mm
    shell = cavity.shell(rules, "dentin")
    laid, too_tight = cavity, []
    for tool in _covered(case, cavity, rules):
        above = _least_outside_mm(tool, cover, rules)
        room, wall = room_mm(cavity, tool, above), _wall(tool)
        if wanted is not None and wanted > room + 1e-9:
            allowed = f"up to {max(room, 0.0):.1f}: {above:g} mm of restoration has to fit over it"
            raise InputError.at("protection.base_mm", wanted, allowed)
        # A hundredth down, so that what is left over it is never less than it needs.
        thickness = wanted or math.floor(100 * min(rules.value("protect.base_mm"), room) + 1e-6) / 100
        if wanted is None and thickness < rules.value("protect.least_base_mm"):
            too_tight.append(wall)
            continue
        before, laid = laid, with_base(laid, tool, thickness, shell)
        too_tight += [wall] if laid is before else []
    least = rules.use("protect.least_base_mm")
    cautions = [warn_by("caution", "protect.no_room", least, where=where) for where in too_tight]
    return laid, cautions


def _wall(tool: Tool) -> str:
    if tool.is_from_face:
        return "deepest point"
    return f"{tool.side} axial wall" if tool.side else "pulpal floor"


def _least_outside_rule(tool: Tool, taken: Taken) -> list[str]:
    """Return the rule of what has to fit over a base; of one in stock its manufacturer tells."""
    if tool.side is not None:
        return ["protect.off_margin_mm"]
    return ["protect.least_above_mm"] if taken.at is None else []


def _least_outside_mm(tool: Tool, cover: Base, rules: Rulebook) -> float:
    return cover.least_above_mm if tool.side is None else rules.value("protect.off_margin_mm")


def _covered(case: Case, cavity: Cavity, rules: Rulebook) -> list[Tool]:
    """Return the parts whose walls a base covers: by the dentin that is left those that come near to the pulp; of one
    that is asked for floor and axial walls, unless told otherwise."""
    asked = case.protection
    walls = asked.walls or ("floor_and_axial" if asked.what == "base" else "nearest")
    if walls == "nearest":
        return _near_pulp(cavity, rules)
    return [tool for tool in cavity.tools if walls == "floor_and_axial" or tool.side is None]


def _near_pulp(cavity: Cavity, rules: Rulebook) -> list[Tool]:
    """Return the parts that come so near to the pulp that they are covered: the nearest, of which the
    measured dentin tells, and by the handbook's distances what is as deep."""
    nearest = min(cavity.gaps_mm)
    beyond = cavity.remaining_dentin_mm - nearest
    least = max(rules.value("tooth.least_remaining_dentin_mm"), cavity.remaining_dentin_mm)
    return [
        tool for tool, gap in zip(cavity.tools, cavity.gaps_mm, strict=True) if gap + beyond <= least + 1e-9
    ]


def _clearance(cavity: Cavity, taken: Taken, rules: Rulebook) -> list[Check]:
    """Return a check of the restoration over each base; it is drawn to the same measure."""
    checks = []
    for base in cavity.bases:
        assert isinstance(taken.cover, Base)
        needed = _least_outside_mm(base.tool, taken.cover, rules)
        if base.tool.side is None:
            left, where = (
                over_floor_mm(cavity, base.tool) - base.thickness_mm,
                ("surface over the deepest point" if base.tool.is_from_face else "central groove"),
            )
        else:
            left, where = room_mm(cavity, base.tool, 0.0) - base.thickness_mm, f"{base.tool.side} box"
        checks.append(
            Check(
                topic=f"protect.clearance.{base.tool.index}",
                title="Restoration over the base"
                if base.tool.side is None
                else "Restoration outside the base",
                measured=round(left, 2),
                needed=needed,
                relation="at_least",
                unit="mm",
                verdict="pass" if left >= needed - 1e-6 else "fail",
                remedy="Trim the base lower.",
                where=where,
                rules=rules.uses("protect.base_mm", *_least_outside_rule(base.tool, taken)),
            )
        )
    return checks


def _cautions(case: Case, cavity: Cavity, taken: Taken) -> list[Caution]:
    cautions = []
    if case.protection.exposure in OPENED:
        is_primary = read_tooth(case.tooth.code).is_deciduous
        cautions.append(
            warn("caution", "protect.opened_primary", TEXTBOOKS)
            if is_primary
            else warn("caution", "protect.capped", TEXTBOOKS)
        )
    if (
        taken.cover.substance == SILICATE
        and cavity.margins_in_dentin
        and case.protection.placed_days_ago is None
        and not _is_sealed_over(case, cavity)
    ):
        where = " and ".join(cavity.margins_in_dentin)
        cautions.append(warn("caution", "protect.fresh_silicate", PRACTICE, where=where))
    return cautions


def _want(taken: Taken) -> Want:
    one = taken.cover
    text = f"{SUBSTANCES[one.substance]} {one.kind}"
    if taken.at is None:
        return Want(kind=one.kind, text=text)
    return Want(kind=one.kind, text=text, name=one.name, lot=one.lot)
