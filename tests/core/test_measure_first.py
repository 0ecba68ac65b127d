"""What to measure first: by planning again at both ends of what was estimated."""

from bisect import bisect_left
from typing import Any

from mallet.studies.measure_first import measure_first
from mallet.terms.case import read_case
from mallet.terms.plan import Plan
from tests.core.conftest import first_case, with_values
from tests.core.planned import plan, work

HEIGHT = "preparation.parts[1].height_mm"
WIDTH = "preparation.parts[0].width_mm"


def with_known(**known: str) -> dict[str, Any]:
    case = first_case()
    for part in case["preparation"]["parts"]:
        part["wall_divergence_deg"] = 3.0
    case["provenance"] = {HEIGHT: "measured", WIDTH: "measured"} | known
    return case


def test_the_size_that_moves_the_light_most_comes_first() -> None:
    case = with_known(**{HEIGHT: "estimated", WIDTH: "estimated"})
    sways = measure_first(read_case(case))
    assert sways[0].path == HEIGHT
    by_hand = []
    for height in (4.5, 5.0, 5.5):
        made = plan(read_case(with_values(case, preparation__parts__1__height_mm=height)))
        assert isinstance(made, Plan)
        by_hand.append(made.totals.light_seconds)
    assert sways[0].light_seconds == (min(by_hand), max(by_hand))
    assert (sways[0].low, sways[0].high) == (4.5, 5.5)


def test_what_is_measured_is_not_asked_for() -> None:
    assert measure_first(read_case(with_known())) == []


def test_an_end_without_a_plan_comes_before_all_seconds() -> None:
    case = with_known(**{HEIGHT: "estimated"})
    for mass in case["masses"]:
        mass["penetration_depth_mm"] = 0.3
    heights = [h / 2 for h in range(6, 13)]
    deeper = [read_case(with_values(case, preparation__parts__1__height_mm=h)) for h in heights]
    first = bisect_left(deeper, True, key=lambda read: not plan(read).feasible)
    assert 0 < first < len(heights), "the search must end at a box too deep for this composite"
    refused = heights[first]
    case = with_values(case, preparation__parts__1__height_mm=refused - 0.5)
    (sway,) = measure_first(read_case(case), planned=work)
    assert sway.no_plan_at == [refused]


def test_the_range_is_a_rule_of_the_house() -> None:
    case = with_known(**{HEIGHT: "estimated"}) | {"house": {"estimate.length_mm": 1.0}}
    (sway,) = measure_first(read_case(case))
    assert (sway.low, sway.high, sway.rule.value) == (4.0, 6.0, 1.0)


def test_what_is_assumed_without_a_value_of_its_own_is_asked_for_too() -> None:
    """A groove depth that nobody has told is taken for that at the tips."""
    cover = {"kind": "cusp_reduction", "cusps": ["mesiofacial"], "tip_mm": 2.0}
    box = {"kind": "occlusal_box", "depth_mm": 2.0, "width_mm": 1.6, "length_mm": 3.0}
    alone = {"neighbours": {}, "provenance": {}, "restoration__surfaces": "O"}
    case = read_case(with_values(first_case(), **alone, preparation={"parts": [box, cover]}))
    groove = {sway.path: sway for sway in measure_first(case)}["preparation.parts[1].groove_mm"]
    assert (groove.value, groove.low, groove.high) == (2.0, 1.5, 2.5)
