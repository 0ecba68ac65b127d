"""Layering in posterior teeth: what each technique cuts, in which order, and that nothing of it is too thick or too dark."""

import json
from itertools import pairwise
from typing import Any

import pytest

from mallet.plan import Worked
from mallet.studies.starting import start_of
from mallet.terms.case import read_case
from mallet.terms.plan import Plan, Step
from tests.core.conftest import EXAMPLE
from tests.core.planned import plan, work
from tools.dense_light import dimmest_of

BASE = json.loads((EXAMPLE.parent / "lower_first_molar_mod.json").read_text())
PLACES = [("36", "MO"), ("16", "MOD"), ("25", "OD")]
FLOWABLE = {
    "name": "flowable", "role": "body", "consistency": "flowable", "penetration_depth_mm": 1.4, "critical_exposure_j_cm2": 0.35,
    "max_increment_mm": 2.0, "shrinkage_vol_percent": 3.8, "density_g_cm3": 1.9, "modulus_gpa": 6.0,
}  # fmt: skip
BULK = {
    **FLOWABLE,
    "name": "bulk",
    "consistency": "paste",
    "penetration_depth_mm": 2.3,
    "max_increment_mm": 4.0,
}
LINE = BASE["restoration"]["composites"]
WAYS: dict[str, dict[str, Any]] = {
    "wall first": {"technique": "wall_first"},
    "halves": {"technique": "wall_first", "wall": "halves"},
    "cusp by cusp": {"technique": "wall_then_oblique", "composites": [*LINE, FLOWABLE], "floor_layer_mm": 0.6},
    "bands off early": {"technique": "wall_then_oblique", "band_off": "after_wall", "first_cusp": "facial"},
    "oblique": {"technique": "oblique"},
    "horizontal": {"technique": "horizontal"},
    "bulk": {"technique": "bulk", "composites": [BULK, FLOWABLE]},
}  # fmt: skip


def asked(code: str, surfaces: str, techniques: dict[str, str] | None = None, **told: Any) -> Worked:
    """Return a new cavity planned by a technique."""
    start = start_of(code, surfaces)
    case = {
        **BASE,
        "tooth": {"code": code},
        "restoration": {**BASE["restoration"], "surfaces": start.surfaces, **told},
        "preparation": {"remaining_dentin_mm": 1.5, "parts": start.parts},
        "adjacent": {},
        "techniques": techniques or {},
    }
    worked = work(read_case(case))
    assert isinstance(worked, Worked)
    return worked


def order_of(steps: list[Step], *marks: str) -> list[int]:
    """Return where the first step stands whose id has each mark."""
    return [next(i for i, step in enumerate(steps) if mark in step.id) for mark in marks]


@pytest.mark.parametrize(("code", "surfaces"), PLACES)
@pytest.mark.parametrize("way", WAYS)
def test_volumes_add_up_and_nothing_is_too_thick_or_too_dark(way: str, code: str, surfaces: str) -> None:
    """Held against the cavity's own volume, the composite's limit, and light by another tracer at the darkest places of the
    first increment."""
    worked = asked(code, surfaces, **WAYS[way])
    increments, filling = worked.plan.increments, worked.cavity.filling
    assert sum(one.volume_mm3 for one in increments) == pytest.approx(filling.volume(), rel=1e-3)
    for one, cured in zip(increments, worked.lit.cured, strict=True):
        assert one.cured.thickness_mm <= cured.mass.max_increment_mm + 5e-3, one.name
        assert one.cured.dose_at_worst_point_j_cm2 >= one.cured.dose_needed_j_cm2 - 1e-9, one.name
    assert not [check.topic for check in worked.plan.checks if check.verdict == "fail"]
    found = dimmest_of(worked, 0, seed=7)
    assert found.upper >= 0.99, (increments[0].name, found)


def test_a_wall_in_halves_is_the_wall_and_its_lingual_half_comes_first() -> None:
    whole, halves = (asked("36", "MO", wall=wall) for wall in ("whole", "halves"))
    volumes = [
        sum(one.volume_mm3 for one in worked.plan.increments if ".wall." in one.id)
        for worked in (whole, halves)
    ]
    assert volumes[1] == pytest.approx(volumes[0], rel=1e-6)
    names = [one.id.split(".")[2] for one in halves.plan.increments if ".wall." in one.id]
    assert names == sorted(names, reverse=True)
    assert set(names) == {"lingual", "facial"}
    held = [
        step.detail for step in halves.plan.steps if ".wall.lingual" in step.id and step.id.endswith("place")
    ]
    assert held
    assert all("Hold the band to the adjacent tooth" in detail for detail in held)


@pytest.mark.parametrize("first", ["lingual", "facial"])
def test_the_first_cusp_is_the_one_that_is_asked_for(first: str) -> None:
    made = asked("16", "MOD", technique="wall_then_oblique", first_cusp=first).plan
    cusps = [one.id.split(".")[1] for one in made.increments if one.id.startswith("cusp.")]
    assert first in cusps[0]
    assert first not in cusps[-1]
    assert not any(first not in one and first in other for one, other in pairwise(cusps))
    walls = [i for i, one in enumerate(made.increments) if ".wall." in one.id]
    assert walls[-1] < min(i for i, one in enumerate(made.increments) if one.id.startswith("cusp."))


def test_bands_come_off_after_the_wall_and_what_follows_is_lit_without_them() -> None:
    end, early = (asked("36", "MOD", band_off=when) for when in ("end", "after_wall"))
    steps = early.plan.steps
    off = order_of(steps, ".off", "build.mesial.final", "build.occlusal", "finish.trim")
    assert off == sorted(off)
    assert off[0] > max(i for i, step in enumerate(steps) if ".wall." in step.id)
    assert [step.id for step in steps].count("matrix.mesial.off") == 1
    off = order_of(end.plan.steps, "build.occlusal", "matrix.mesial.off")
    assert off == sorted(off)
    # Nothing that is lit without a band gets less light for it.
    lit = {one.id: one.cured.exposures for one in end.plan.increments}
    for one in early.plan.increments:
        assert sum(e.seconds for e in one.cured.exposures) <= sum(e.seconds for e in lit[one.id]), one.id


def test_bulk_behind_a_clear_band_is_lit_from_three_sides_and_again_once_it_is_off() -> None:
    clear = asked(
        "25", "OD", {"band": "clear"}, technique="bulk", composites=[BULK, FLOWABLE], warm_c=55
    ).plan
    for one in clear.increments:
        assert {e.source for e in one.cured.exposures} == {"occlusal", "facial", "lingual"}
    ids = [step.id for step in clear.steps]
    assert ids.index("build.bead") < ids.index("build.bulk.1.place") < ids.index("matrix.distal.off")
    assert ids.index("matrix.distal.off") < ids.index("build.distal.final.facial")
    assert {want.name for want in clear.wants} >= {"bulk", "flowable"}
    placed = next(step for step in clear.steps if step.id == "build.bulk.1.place")
    (waits,) = placed.within
    assert waits.rule.rule == "chair.warm_mass_s"
    assert not [check for check in clear.checks if check.topic.startswith("window.")]


def test_flowable_covers_the_floors_as_thick_as_asked_and_stands_for_the_first_increment() -> None:
    made = asked("36", "MOD", technique="wall_first", floor_layer_mm=0.8, composites=[*LINE, FLOWABLE]).plan
    floors = [one for one in made.increments if one.id.endswith(".floor")]
    assert [one.id for one in floors] == ["mesial.floor", "distal.floor", "occlusal.floor"]
    assert {one.product for one in floors} == {"flowable"}
    assert max(one.cured.thickness_mm for one in floors) == pytest.approx(0.8, abs=0.01)
    assert not [one for one in made.increments if "gingival" in one.id]


def test_a_back_tooth_that_does_not_show_gets_no_opaque_dentin_and_one_that_shows_does() -> None:
    roles = {
        code: {one.cured.role for one in asked(code, surfaces).plan.increments}
        for code, surfaces in (("36", "MOD"), ("25", "OD"))
    }
    assert roles == {"36": {"enamel", "body"}, "25": {"enamel", "dentin"}}


@pytest.mark.parametrize(("code", "surfaces"), [
    ("36", "MO"), ("36", "MOD"), ("46", "OD"), ("16", "MO"), ("26", "MOD"), ("37", "MO"), ("14", "MO"), ("25", "OD"), ("45", "MOD"),
    ("46", "O"),
])  # fmt: skip
def test_ten_new_restorations_of_molars_and_premolars_raise_no_alarm(code: str, surfaces: str) -> None:
    """As the Bench begins them: sized by the handbook, walls first, none in more than a dozen increments."""
    start = start_of(code, surfaces)
    told = {**BASE["restoration"], "surfaces": start.surfaces}
    case = {**BASE, "tooth": {"code": code}, "restoration": told, "adjacent": {}}
    made = plan(read_case({**case, "preparation": {"remaining_dentin_mm": 1.5, "parts": start.parts}}))
    assert isinstance(made, Plan)
    assert [check.topic for check in made.checks if check.verdict != "pass"] == []
    assert len(made.increments) <= 12
