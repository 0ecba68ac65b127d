"""Which unmeasured input would move the plan most: the one to measure first, by planning again."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import Any

from mallet.plan import Worked, work
from mallet.rulebook import Rulebook, load_rulebook
from mallet.stages.asks import bounds_at, title_of
from mallet.terms.case import Case, get_path, read_case, set_path
from mallet.terms.errors import InputError, NotFeasible
from mallet.terms.plan import Sway

RANGE_RULES = {"mm": "estimate.length_mm", "deg": "estimate.angle_deg"}


def measure_first(
    case: Case, book: Rulebook | None = None, planned: Callable[[Case], Worked] | None = None
) -> list[Sway]:
    """Return what each unmeasured size of the preparation would change within its range, the one that
    would change the plan most first; those that change nothing are left out.

    Raises what `work` raises for the case itself. At an end of a range that contradicts the tooth
    the case's own plan stands; at one that cannot be planned, the sway has no plan there. `planned` is what plans
    instead of `work`, as where plans are kept.
    """
    rules = (book or load_rulebook()).with_house(case.practice_settings)
    planned = planned or partial(work, book=book)
    worked = planned(case)
    sways = [_sway(worked, path, rules, planned) for path in _unmeasured(worked)]
    return sorted((s for s in sways if any(_moved(s))), key=_moved, reverse=True)


def _unmeasured(worked: Worked) -> list[str]:
    """Return the paths of sizes of the preparation that nobody measured."""
    known = worked.case.provenance
    typed = [path for path, how in known.items() if how != "measured"]
    assumed = [a.path for a in worked.plan.assumptions if known.get(a.path) != "measured"]
    paths = sorted({*typed, *assumed})
    return [p for p in paths if p.startswith("preparation.parts[") and _unit(p) in RANGE_RULES]


def _sway(worked: Worked, path: str, rules: Rulebook, planned: Callable[[Case], Worked]) -> Sway:
    rule = rules.use(RANGE_RULES[_unit(path)])
    value = _value(worked, path)
    low, high = bounds_at(worked.case, path)
    ends = [max(round(value - rule.value, 3), low), min(round(value + rule.value, 3), high)]
    plans = [_planned(worked, path, end, planned) for end in ends]
    made = [worked.plan, *(p.plan for p in plans if p)]
    totals = [plan.totals for plan in made]
    return Sway(
        path=path,
        title=title_of(worked.case, path),
        value=value,
        unit=_unit(path),
        low=ends[0],
        high=ends[1],
        light_seconds=_spread([t.light_seconds for t in totals]),
        increments=_spread([float(t.increments) for t in totals]),
        supplies=_spread([float(sum(one.count for one in plan.supplies)) for plan in made]),
        supplies_in=next((one.counted_in for plan in made for one in plan.supplies), "capsules"),
        no_plan_at=[end for end, p in zip(ends, plans, strict=True) if p is None],
        rule=rule,
    )


def _value(worked: Worked, path: str) -> float:
    """Return the size at a path, or what it was taken for where the case does not tell it."""
    taken = {a.path: a.value for a in worked.plan.assumptions}
    value = get_path(worked.case, path)
    value = taken.get(path) if value is None else value
    assert isinstance(value, float | int)
    return float(value)


def _planned(worked: Worked, path: str, value: float, planned: Callable[[Case], Worked]) -> Worked | None:
    case: dict[str, Any] = worked.case.model_dump(mode="json")
    set_path(case, path, value)
    try:
        return planned(read_case(case))
    except InputError:
        return worked
    except NotFeasible:
        return None


def _spread(values: list[float]) -> tuple[float, float]:
    return min(values), max(values)


def _moved(sway: Sway) -> tuple[int, float, float, float]:
    """Return how much a sway matters: no plan at all before seconds, seconds before mixes, those before increments."""
    light, supplies, increments = sway.light_seconds, sway.supplies, sway.increments
    return len(sway.no_plan_at), light[1] - light[0], supplies[1] - supplies[0], increments[1] - increments[0]


def _unit(path: str) -> str:
    return path.rsplit("_", 1)[-1]
