"""By which abrasives composite is finished: those in stock that reach, from coarse to finest."""

import itertools
from typing import Any

import pytest

from mallet.restoratives.composite.polishing import COARSEST, REACHES, Trimming, series_of
from mallet.terms.case import read_case
from mallet.terms.plan import Plan
from mallet.terms.stock import Abrasive
from tests.core.conftest import first_case, with_values
from tests.core.planned import decided, plan, planned, steps_of

FORMS, GRITS = ("disc", "cup", "point", "strip", "paste"), ("coarse", "medium", "fine", "finest")
ALL = [
    Abrasive(kind="abrasive", name=f"{form} {grit}", form=form, grit=grit)  # type: ignore[arg-type]
    for form, grit in itertools.product(FORMS, GRITS)
]


@pytest.mark.parametrize("surface", list(REACHES))
def test_each_grit_is_the_form_that_reaches_best_in_order_whatever_the_order_in_stock(
    surface: Trimming,
) -> None:
    for stock in (ALL, ALL[::-1]):
        series = series_of(surface, stock, is_between=False)
        assert series
        forms, first = REACHES[surface]
        assert {one.form for one in series.items} == {forms[0]}
        assert [one.grit for one in series.items] == list(COARSEST[COARSEST.index(first) :])
        assert not series.lacking
        assert not series.strips
        assert not series.cautions


@pytest.mark.parametrize(
    ("surface", "stock", "said", "lacking"),
    [
        ("front", ("disc medium", "disc finest"), "disc medium; then disc finest", ["fine"]),
        ("front", ("disc medium", "cup fine", "paste finest"), "disc medium; then cup fine; then paste finest", []),
        ("neck", ("disc medium", "cup fine", "cup finest"), "disc medium; then cup fine; then cup finest", []),
        ("cusps", ("disc medium", "disc fine", "point fine"), "point fine", ["finest"]),
        ("pit", ("disc fine", "disc finest"), "", []),
        ("groove", ("paste finest",), "paste finest", ["fine"]),
    ],
)  # fmt: skip
def test_what_does_not_reach_is_left_and_what_lacks_is_named(
    surface: Trimming, stock: tuple[str, ...], said: str, lacking: list[str]
) -> None:
    series = series_of(surface, [one for one in ALL if one.name in stock], is_between=False)
    assert series
    assert series.says == said
    assert list(series.lacking) == lacking
    told = [caution.text for caution in series.cautions]
    assert bool(told) == (not said or bool(lacking))
    assert all(grit in text for grit in lacking for text in told)


def in_stock(*names: str) -> dict[str, Any]:
    return {"stock": [one.model_dump() for one in ALL if one.name in names]}


def polished(made: Plan) -> tuple[str, list[str]]:
    (step,) = (one for one in steps_of(made, "finish") if one.id == "finish.polish")
    return step.detail, step.tray


def test_a_plan_lays_out_what_it_polishes_with_and_wants_it_from_stock() -> None:
    made = planned(**in_stock("point fine", "point finest", "disc fine", "strip fine", "strip coarse"))
    detail, tray = polished(made)
    assert detail.startswith("Point fine; then point finest, wet")
    assert tray == ["point fine", "point finest"]
    assert decided(made, "finish.series").chosen == "point fine; then point finest"
    # Strips for what the floss finds, the coarser first; discs stay where they are.
    assert [want.name for want in made.wants if want.kind == "abrasive"] == [
        *tray,
        "strip coarse",
        "strip fine",
    ]
    (trim,) = (one for one in steps_of(made, "finish") if one.id == "finish.trim")
    assert "strip coarse" in trim.tray


@pytest.mark.parametrize("below_gum", [True, False])
def test_what_a_strip_shaped_is_left_alone_and_what_a_hand_shaped_is_polished(below_gum: bool) -> None:
    neck = {
        "kind": "notch",
        "face": "facial",
        "width_mm": 3.6,
        "height_mm": 2.2,
        "depth_mm": 1.2,
        "above_cervical_mm": 0.8,
    }
    case = with_values(
        first_case(), tooth__code="34", restoration__surfaces="F", neighbours={}, provenance={}
    )
    case["preparation"] = {"remaining_dentin_mm": 1.5, "parts": [neck]}
    made = plan(read_case({**case, "findings": {"below_gum": below_gum}}))
    assert isinstance(made, Plan)
    assert ("Leave alone" in polished(made)[0]) == below_gum


def test_a_practice_that_keeps_no_abrasives_in_stock_is_told_in_general() -> None:
    made = planned()
    assert polished(made) == (
        "Two grits, wet, light pressure; rinse between grits. Leave alone what a band or strip shaped smooth.",
        ["rubber points", "brush"],
    )
    assert not [one for one in made.cautions if one.code.startswith("finish.")]
