"""Composites matched to a color on a broken corner: composites, shape and target are data, written down before there was a matcher."""

import itertools
import json
import math
from pathlib import Path
from typing import Any

import numpy as np
import pytest

from mallet.color.columns import columns_of, stacked
from mallet.color.difference import de00
from mallet.color.spectra import lab_of_reflectance
from mallet.plan import Worked
from mallet.restoratives.composite.color import Looked, look, nearest
from mallet.rulebook import Rulebook
from mallet.terms.case import Case, read_case
from mallet.terms.errors import InputError
from mallet.terms.plan import Plan
from tests.core.conftest import EXAMPLE
from tests.core.planned import plan, work

CORNER = json.loads(Path(__file__).with_name("color_corner.json").read_text())
BASE = json.loads((EXAMPLE.parent / "lower_first_molar_mod.json").read_text())
LINE = {one["role"]: one for one in BASE["restoration"]["composites"]}
MOUTH, K1, K2 = 0.04, 0.04, 0.596


def outside(inside: float) -> float:
    return (1 - K1) * (1 - K2) * inside / (1 - K2 * inside)


def over(k: float, s: float, mm: float, backing: float) -> float:
    """Return what a layer over a backing reflects, by the hyperbolic form that no module uses."""
    if mm <= 0:
        return backing
    a = 1 + k / s
    b = math.sqrt(a * a - 1)
    coth = 1 / math.tanh(b * s * mm)
    return (1 - backing * (a - b * coth)) / (a - backing + b * coth)


def read(layers: list[tuple[str, float]], backing: float = MOUTH) -> np.ndarray:
    """Return what is read, wavelength by wavelength, of layers from the front to the back."""
    found = []
    for i in range(31):
        here = backing
        for name, mm in reversed(layers):
            one = CORNER["composites"][name]
            here = over(one["k_per_mm"][i], one["s_per_mm"], mm, here)
        found.append(outside(here))
    return np.array(found)


def optics(name: str) -> dict[str, Any]:
    return {
        "kind": "spectral", "thickness_mm": 1.0, "over_black": list(read([(name, 1.0)], 0.02)), "over_white": list(read([(name, 1.0)], 0.8)),
        "black": [outside(0.02)] * 31, "white": [outside(0.8)] * 31,
    }  # fmt: skip


def case_of(
    names: tuple[str, ...] = ("enamel", "body", "dentin"), target: dict[str, Any] | None = None, **told: Any
) -> Case:
    composites = [
        {**LINE[CORNER["composites"][name]["role"]], "name": name, "optics": optics(name)} for name in names
    ]
    return read_case({
        **BASE,
        "tooth": {"code": CORNER["tooth"]},
        "restoration": {**BASE["restoration"], "surfaces": "MI", "composites": composites, **told},
        "preparation": {"parts": [CORNER["part"]], "remaining_dentin_mm": 1.5},
        "findings": {"cause": "fracture", "pulp": "normal", "tooth_confirmed": True},
        "adjacent": {},
        "shade": {"target": [target or {"lab": CORNER["target"]}]},
    })  # fmt: skip


def looked_at(case: Case, book: Rulebook) -> tuple[Worked, Looked]:
    worked = work(case)
    found = look(worked.case, worked.cavity, book)
    assert found
    return worked, found


def test_a_corner_too_clear_with_a_millimeter_of_enamel_is_planned_within_what_is_accepted(
    book: Rulebook,
) -> None:
    thick = plan(case_of(enamel_mm=1.0))
    free = plan(case_of(("enamel", "body", "dentin", "opaque")))
    assert isinstance(thick, Plan)
    assert isinstance(free, Plan)
    assert thick.color
    assert free.color
    assert 6.5 < thick.color.de00 < 10
    assert thick.color.says.endswith("darker") or thick.color.says.startswith("darker")
    assert thick.color.seen == "not_accepted"
    assert free.color.de00 <= 1.8
    chosen = free.color.choices[0]
    assert chosen.composites == ["enamel", "opaque"]
    assert 0.3 <= chosen.enamel_mm <= 0.5
    assert {one.product for one in free.increments} == {"enamel", "opaque"}
    assert not [c.code for c in free.cautions if c.code.startswith("shade.dark")]


def test_where_no_split_masks_the_mouth_the_room_that_lacks_is_told_before_bonding() -> None:
    made = plan(case_of())
    assert isinstance(made, Plan)
    assert made.color
    assert made.color.lacking_mm or made.color.is_beyond
    (caution,) = (c for c in made.cautions if c.code.startswith("shade.dark"))
    assert caution.text.startswith("Place a thin opaque layer first")
    stages = {stage.id: stage for stage in made.stages}
    order = list(stages)
    assert order.index("shade") < order.index("bond")


@pytest.mark.parametrize("names", [("enamel", "dentin"), ("enamel", "opaque")])
def test_thicknesses_are_those_of_a_grid_search_by_other_hands(
    names: tuple[str, str], book: Rulebook
) -> None:
    """Wavelength by wavelength in plain loops, over some of the same columns, in steps of a tenth."""
    worked, found = looked_at(case_of(names), book)
    best = nearest(worked.case, found)[0]
    counts = np.flatnonzero(found.wanted.weight)[::7]
    target = np.array(CORNER["target"])

    def mean(enamel_mm: float, shell_mm: float) -> float:
        off = []
        for i in counts:
            room = float(found.columns.room_mm[i])
            front = min(enamel_mm, room)
            back = min(shell_mm, room - front)
            layers = [(names[0], front), (names[1], room - front - back), (names[0], back)]
            off.append(float(de00(target, lab_of_reflectance(read(layers)))))
        return float(np.mean(off))

    grid = {
        (enamel, shell): mean(enamel, shell)
        for enamel, shell in itertools.product((0.3, 0.4, 0.5, 0.7, 1.0), (0.3, 0.4, 0.5))
    }
    ours = mean(best.layers.enamel_mm, best.layers.shell_mm)
    assert ours <= min(grid.values()) + 0.1
    assert ours == pytest.approx(best.mean_de00, abs=0.25)


def test_columns_are_the_planned_solids_and_the_build_is_cut_as_it_was_matched(book: Rulebook) -> None:
    worked, found = looked_at(case_of(("enamel", "opaque")), book)
    columns = columns_of(worked.cavity.filling, worked.cavity.remaining_tooth)
    layers = stacked([(one.portion.solid, one.mass.name) for one in worked.lit.cured], columns.places)
    assert [name for name, _ in layers] == ["enamel", "opaque", "enamel"]
    assert np.sum([length for _, length in layers], axis=0) == pytest.approx(columns.room_mm, abs=2e-3)
    best = nearest(worked.case, found)[0].layers
    inner = columns.room_mm > 1.5
    for (_, length), wanted in zip((layers[0], layers[2]), (best.enamel_mm, best.shell_mm), strict=True):
        assert np.median(length[inner]) == pytest.approx(wanted, abs=0.02)


def test_shade_never_overrules_the_radiant_exposure() -> None:
    for names in (("enamel", "dentin"), ("enamel", "opaque")):
        made = plan(case_of(names))
        assert isinstance(made, Plan)
        for one in made.increments:
            assert one.cured.dose_at_worst_point_j_cm2 >= one.cured.dose_needed_j_cm2
        assert not [check.topic for check in made.checks if check.verdict == "fail"]


def test_a_tooth_that_had_dried_is_reckoned_back_and_one_too_dry_is_refused() -> None:
    wet, dry = (plan(case_of(target={"lab": CORNER["target"], "minutes_dry": minutes})) for minutes in (0, 6))
    assert isinstance(wet, Plan)
    assert isinstance(dry, Plan)
    assert wet.color
    assert dry.color
    assert dry.color.target[0] < wet.color.target[0] - 1
    assert dry.color.uncertain_de00 > wet.color.uncertain_de00
    with pytest.raises(
        InputError, match=r"shade.target\[0\].minutes_dry: got 12, allowed up to 10 for an instrument"
    ):
        plan(case_of(target={"lab": CORNER["target"], "minutes_dry": 12}))
    # By eye it may still be told.
    assert isinstance(plan(case_of(target={"lab": CORNER["target"], "minutes_dry": 12, "how": "eye"})), Plan)


@pytest.mark.parametrize(
    ("target", "told"),
    [
        ({"lab": [120, 0, 10]}, "shade.target[0].lab"),
        ({"lab": [80, 0, 90]}, "shade.target[0].lab"),
        ({"how": "eye"}, "shade.target[0]"),
        ({"reflectance": [0.5] * 30}, "shade.target[0].reflectance"),
    ],
)
def test_what_is_no_color_is_refused_by_its_path(target: dict[str, Any], told: str) -> None:
    with pytest.raises(InputError) as refused:
        case_of(target=target)
    assert refused.value.problems[0].path == told


def test_one_target_for_each_third_and_composites_without_looks_are_named() -> None:
    case = case_of().model_dump(mode="json", exclude_unset=True)
    case["shade"]["target"] *= 2
    with pytest.raises(InputError, match="one target for each third of the face"):
        read_case(case)
    case["shade"]["target"] = case["shade"]["target"][:1]
    for one in case["restoration"]["composites"]:
        del one["optics"]
    made = plan(read_case(case))
    assert isinstance(made, Plan)
    assert made.color is None
    assert "shade.no_optics_at_all" in {c.code for c in made.cautions}


def test_what_is_known_of_some_alone_takes_none_of_the_others_away() -> None:
    """A dentin shade without readings might come nearer than all: it is placed as ever, and named."""
    case = case_of(("enamel", "opaque")).model_dump(mode="json", exclude_unset=True)
    del case["restoration"]["composites"][1]["optics"]
    made = plan(read_case(case))
    assert isinstance(made, Plan)
    assert {one.product for one in made.increments} == {"enamel", "opaque"}
    assert made.color is None
    told = {c.code: c.text for c in made.cautions}
    assert "opaque" in told["shade.no_optics"]


def test_a_shell_as_thick_as_was_asked_for_stays_so() -> None:
    made = plan(case_of(("enamel", "opaque"), enamel_mm=0.6, shell_mm=0.7))
    assert isinstance(made, Plan)
    assert made.color
    assert [(one.enamel_mm, one.shell_mm) for one in made.color.choices] == [(0.6, 0.7)]


def test_a_spectrum_tells_of_other_light_sources_and_cielab_does_not() -> None:
    by_spectrum = plan(
        case_of(("enamel", "opaque"), {"reflectance": list(read([("enamel", 0.6), ("dentin", 8.0)]))})
    )
    by_lab = plan(case_of(("enamel", "opaque")))
    assert isinstance(by_spectrum, Plan)
    assert isinstance(by_lab, Plan)
    assert by_spectrum.color
    assert by_lab.color
    assert by_lab.color.metamerism_de00 is None
    assert by_spectrum.color.metamerism_de00 is not None
    assert 0 < by_spectrum.color.metamerism_de00 < 3


@pytest.mark.parametrize(
    ("answer", "names", "is_lighter"),
    [("too_gray", ("enamel", "dentin"), True), ("too_light", ("enamel", "opaque"), False)],
)
@pytest.mark.parametrize("enamel_mm", [0.5, 0.8])
def test_what_a_mock_up_s_answer_asks_for_helps_once_it_is_done(
    answer: str, names: tuple[str, ...], is_lighter: bool, enamel_mm: float
) -> None:
    """Over the dark of the mouth more dentin composite makes it lighter, more enamel composite darker."""

    def tried(thickness_mm: float) -> Plan:
        case = case_of(names, enamel_mm=thickness_mm)
        shade = case.shade.model_copy(update={"mock_up": True, "mock_up_answer": answer})
        made = plan(case.model_copy(update={"shade": shade}))
        assert isinstance(made, Plan)
        return made

    first = tried(enamel_mm)
    (asked,) = (one for one in first.decisions if one.topic == "shade.mock_up")
    wanted_mm = asked.reasons[0].params["enamel_mm"]
    assert f"Set the enamel to {wanted_mm:g} mm" in asked.reasons[0].text
    then = tried(wanted_mm)
    assert first.color
    assert then.color
    assert (then.color.predicted[0] > first.color.predicted[0]) == is_lighter
    thin = tried(0.3)
    (asked,) = (one for one in thin.decisions if one.topic == "shade.mock_up")
    assert (asked.chosen == "a thin opaque layer first") == is_lighter


def test_the_face_tells_place_by_place_what_the_plan_tells_of_all_of_it(book: Rulebook) -> None:
    worked, found = looked_at(case_of(), book)
    face = worked.built.color_face()
    assert face
    assert worked.plan.color
    assert [layer.name for layer in face.layers] == ["enamel", "dentin", "enamel"]
    told = [one for one in face.columns if not one.unpredicted]
    assert np.mean([one.de00 for one in told]) == pytest.approx(worked.plan.color.de00, abs=0.4)
    at = np.array([one.at for one in face.columns])
    drawn = worked.cavity.access.points_in_tooth(
        np.column_stack([found.columns.places, np.zeros(len(found.columns))])
    )[:, [0, 2]]
    for place, one in zip(at, face.columns, strict=True):
        i = int(np.argmin(np.linalg.norm(drawn - place, axis=1)))
        assert sum(one.lengths_mm) == pytest.approx(found.columns.room_mm[i], abs=0.02)
    # Along a line the layer is as thick as the line says, inside it thicker.
    for line in face.lines:
        for point in line.points[::5]:
            near = np.linalg.norm(at - point, axis=1) < 0.45
            thick = [face.columns[i].lengths_mm[0] for i in np.flatnonzero(near)]
            assert min(thick) - 0.1 <= line.thickness_mm <= max(thick) + 0.1
    worst = max(told, key=lambda one: one.de00)
    assert worst.de00 > 1.8
    assert not worst.has_tooth_behind
    ring = max((np.array(ring) for ring in face.dark), key=len)
    assert (ring.min(axis=0) <= worst.at).all()
    assert (worst.at <= ring.max(axis=0)).all()
    hidden = work(case_of(("enamel", "opaque"))).built.color_face()
    assert hidden
    assert hidden.dark == []


def test_without_a_color_that_was_read_no_face_is_told() -> None:
    case = case_of().model_dump(mode="json", exclude_unset=True)
    del case["shade"]
    assert work(read_case(case)).built.color_face() is None


def test_each_match_tells_what_it_costs_in_light_as_if_it_were_planned_alone(book: Rulebook) -> None:
    case = case_of(("enamel", "body", "dentin"))
    worked = work(case)
    costs = worked.built.match_costs()
    assert worked.plan.color
    choices = worked.plan.color.choices
    assert [one.composites for one in costs] == [one.composites for one in choices]
    assert costs[0].cure_seconds == worked.plan.totals.cure_seconds
    assert costs[0].increments == worked.plan.totals.increments
    told = 0
    for cost, choice in zip(costs, choices, strict=True):
        thick = {"enamel_mm": choice.enamel_mm, "shell_mm": choice.shell_mm} if choice.enamel_mm else {}
        alone = work(case_of(tuple(choice.composites), **thick)).plan
        assert alone.color
        # By itself a composite may come nearer than under another one.
        if alone.color.choices[0].composites == choice.composites:
            told += 1
            assert cost.cure_seconds == pytest.approx(alone.totals.cure_seconds), choice
            assert cost.increments == alone.totals.increments, choice
    assert told >= 3
    assert len({cost.cure_seconds for cost in costs}) > 1


def test_a_match_too_dark_to_be_cured_says_so() -> None:
    case = case_of(("enamel", "body", "dentin")).model_dump(mode="json", exclude_unset=True)
    nearest_name = work(read_case(case)).plan.color
    assert nearest_name
    other = next(one for one in nearest_name.choices if one.composites != nearest_name.choices[0].composites)
    dark = (set(other.composites) - set(nearest_name.choices[0].composites)).pop()
    for one in case["restoration"]["composites"]:
        if one["name"] == dark:
            one["manufacturer"] = {"seconds": 240, "at_irradiance_mw_cm2": 1000}
    costs = {tuple(one.composites): one for one in work(read_case(case)).built.match_costs()}
    assert any(one.refused and dark in names for names, one in costs.items())
    assert not any(one.refused for names, one in costs.items() if dark not in names)
