"""Every big number says why, and what it cites really acts."""

from functools import cache
from typing import Any

import pytest

from mallet.cavity.preparation import prepare_cavity
from mallet.rulebook import load_rulebook
from mallet.terms.case import get_path, read_case, set_path
from mallet.terms.plan import Figure, Plan
from mallet.worked import read_worked
from tests.core.conftest import EXAMPLE, first_case, with_values
from tests.core.planned import plan


@cache
def by_rule(rule: str, value: float) -> dict[str, Figure]:
    """Return the figures of the first case with a house rule."""
    return figures(first_case(), {rule: value})


def figures(case: dict[str, Any], house: dict[str, float] | None = None) -> dict[str, Figure]:
    made = plan(read_case({**case, "house": house or {}}))
    return {f.id: f for f in made.figures} if isinstance(made, Plan) else {}


WORKED = EXAMPLE.parent / "worked"
BASE = figures(first_case())
CITED = [(f.id, use.rule) for f in BASE.values() for use in f.rules]


def test_the_reckoning_has_five_figures_each_with_reasons() -> None:
    assert list(BASE) == ["light_seconds", "weakest_point", "increments", "filling", "chair_minutes"]
    case = read_case(first_case())
    for figure in BASE.values():
        assert figure.how
        assert figure.inputs
        for used in figure.inputs:
            assert get_path(case, used.path) is not None
        for use in figure.rules:
            assert use.citation
            assert use.sureness in "ABCT"
            assert use.unit


def test_what_was_estimated_is_told_from_what_was_measured() -> None:
    known = {i.path: i.provenance for i in BASE["light_seconds"].inputs}
    assert known["preparation.parts[1].height_mm"] == "estimated"
    assert known["preparation.parts[1].width_mm"] == "measured"
    crown = {i.path: i.provenance for i in BASE["filling"].inputs}
    assert crown["tooth.code"] == "handbook"


@pytest.mark.parametrize(
    "name", ["neck_of_incisor", "cover_thin_in_groove", "tunnel_ridge_stays", "front_edge_star", "pins_apart"]
)
def test_a_size_that_moves_the_solid_is_cited(name: str) -> None:
    case = read_worked(WORKED / f"{name}.json")[1]
    made, rules = plan(case), load_rulebook()
    assert isinstance(made, Plan)
    cited = {i.path for i in next(f for f in made.figures if f.id == "filling").inputs}
    volume, moved = prepare_cavity(case, rules).filling.volume(), set()
    for i, part in enumerate(case.preparation.parts):
        for size, value in part.model_dump(exclude_none=True).items():
            path, changed = f"preparation.parts[{i}].{size}", case.model_dump(mode="json", exclude_unset=True)
            if isinstance(value, float):
                set_path(changed, path, value + 0.1)
                other = prepare_cavity(read_case(changed), rules).filling.volume()
                moved |= {path} if abs(other - volume) > 1e-6 else set()
    assert moved
    assert moved <= cited


def test_what_nobody_has_told_is_no_measurement() -> None:
    case, path = first_case(), "preparation.parts[0].wall_divergence_deg"
    for expected in ("measured", "estimated"):
        assert {i.path: i.provenance for i in figures(case)["filling"].inputs}[path] == expected
        case["preparation"]["parts"][0].pop("wall_divergence_deg", None)


@pytest.mark.parametrize(("figure", "rule"), CITED)
def test_changing_a_cited_rule_changes_the_figure(figure: str, rule: str) -> None:
    known = load_rulebook().rules[rule]
    before = BASE[figure]
    for value in (known.high, known.low, (known.high + known.low) / 2):
        after = by_rule(rule, value).get(figure)
        if after is None or (after.value, after.detail) != (before.value, before.detail):
            return
    pytest.fail(f"{rule} is cited by {figure} but does not act")


def test_a_figure_follows_the_house_and_says_so() -> None:
    changed = figures(first_case(), {"light.conversion_factor": 6.0})["light_seconds"]
    assert changed.value > BASE["light_seconds"].value
    used = next(u for u in changed.rules if u.rule == "light.conversion_factor")
    assert (used.value, used.default_value) == (6.0, 5.0)


def test_a_rule_that_cuts_thinner_is_cited_when_it_acts() -> None:
    dark = with_values(first_case(), masses__0__penetration_depth_mm=0.6)
    cited = {u.rule for u in figures(dark)["increments"].rules}
    assert "light.longest_exposure_s" in cited
    assert "light.longest_exposure_s" not in {u.rule for u in BASE["increments"].rules}
    fewer = figures(dark, {"light.longest_exposure_s": 120.0})["increments"].value
    assert fewer < figures(dark)["increments"].value
