"""The open sandwich: glass ionomer to a margin without enamel, composite over it."""

from pathlib import Path
from typing import Any

import pytest

from mallet.cavity.sections import area_mm2
from mallet.drawing import draw
from mallet.plan import Worked
from mallet.terms.case import read_case
from mallet.terms.errors import InputError
from mallet.worked import read_worked
from tests.core.planned import work

CASE = read_worked(Path(__file__).parents[2] / "examples" / "worked" / "open_sandwich.json")[1]


MOD = [
    {"kind": "occlusal_box", "depth_mm": 2.0, "width_mm": 2.5, "length_mm": 5.0},
    *(
        {"kind": "proximal_box", "side": side, "height_mm": 6.5, "width_mm": 3.5, "axial_depth_mm": 1.5}
        for side in ("mesial", "distal")
    ),
]


def worked(**changes: Any) -> Worked:
    told = CASE.model_dump(mode="json", exclude_unset=True)
    told["restoration"] |= changes.pop("restoration", {})
    return work(read_case({**told, **changes}))


def test_the_ionomer_lies_on_the_gingival_floor_and_with_the_composite_fills_the_cavity() -> None:
    made = worked()
    (box,) = made.cavity.boxes
    ionomer, *composite = made.built.placed
    low, high = ionomer.solid.bounding_box()[2], ionomer.solid.bounding_box()[5]
    assert (low, high) == pytest.approx((box.floor_mm, box.floor_mm + 1.5), abs=0.01)
    assert min(one.solid.bounding_box()[2] for one in composite) >= high - 1e-6
    volumes = [one.solid.volume() for one in made.built.placed]
    assert sum(volumes) == pytest.approx(made.cavity.filling.volume(), rel=1e-3)
    assert [one.product for one in made.plan.increments][:2] == ["demo resin-modified ionomer", "demo body"]
    # It is drawn with the others, out to the surface.
    section = draw(made).sheets[0]
    (shown,) = (one for one in section.shapes if one.order == 1)
    assert area_mm2(shown.rings) > 1.5
    assert made.plan.supplies[0].increments == [1]


def test_it_is_conditioned_and_cured_before_anything_is_etched_or_bonded() -> None:
    made = worked().plan
    steps = {step.id: step for step in made.steps}
    lit = [s for s in made.steps if s.light and s.increment == 1]
    bonding = [s for s in made.steps if s.stage == "bond"]
    assert steps["build.sandwich.condition"].end_s <= steps["build.sandwich.mesial.place"].start_s
    assert max(s.end_s for s in lit) <= min(s.start_s for s in bonding)
    assert made.increments[0].detail.dose_at_worst_point_j_cm2 >= made.increments[0].detail.dose_needed_j_cm2
    placed = steps["build.sandwich.mesial.place"]
    assert placed.end_s <= steps["build.sandwich.mesial.mix"].end_s + 150


def test_wet_before_it_is_bonded_over_begins_at_conditioning_and_later_leaves_it() -> None:
    wet = {step.id: step.wet for step in worked().plan.steps if step.wet}
    assert wet["build.sandwich.mesial.light"].redo[0] == "build.sandwich.condition"
    assert "build.sandwich.mesial.place" in wet["build.sandwich.mesial.light"].redo
    assert not any("sandwich" in id for id in wet["build.mesial.wall.1.light"].redo)


def test_only_what_light_sets_may_be_named_and_without_stock_the_handbook_s_is_placed() -> None:
    with pytest.raises(InputError, match=r"restoration\.sandwich_ionomer: got 'other', allowed demo resin"):
        worked(restoration={"sandwich_ionomer": "other"})
    made = worked(stock=[]).plan
    assert made.increments[0].product == "a resin-modified glass ionomer, by the handbook"
    assert "restoration.sandwich_ionomer.volume_mm3" in {one.path for one in made.assumptions}


def test_two_boxes_take_one_capsule_and_what_is_cured_stays_when_it_gets_wet() -> None:
    made = worked(
        restoration={"surfaces": "MOD"},
        preparation={"remaining_dentin_mm": 1.5, "parts": MOD},
        adjacent={},
        provenance={},
    ).plan
    assert [one.increments for one in made.supplies] == [[1, 2]]
    assert "1 capsule" in next(want.text for want in made.wants if want.kind == "ionomer")
    wet = {step.id: step.wet for step in made.steps if step.wet}
    second = wet["build.sandwich.distal.light"].redo
    assert "build.sandwich.condition" in second
    assert "build.sandwich.distal.place" in second
    assert "build.sandwich.mesial.place" not in second


def test_where_none_is_laid_it_is_said_why() -> None:
    def said(height_mm: float, depth_mm: float) -> tuple[str, set[str]]:
        told = CASE.model_dump(mode="json", exclude_unset=True)
        parts = told["preparation"]["parts"]
        parts[0]["depth_mm"], parts[1]["height_mm"] = depth_mm, height_mm
        made = worked(preparation={**told["preparation"], "parts": parts}).plan
        sandwich = next(one for one in made.decisions if one.topic == "build.sandwich")
        return sandwich.chosen, {r.code for r in sandwich.reasons} | {c.code for c in made.cautions}

    assert said(4.5, 2.0)[0] == "composite to the margin"
    assert "sandwich.enamel" in said(4.5, 2.0)[1]
    deep = said(6.3, 5.0)
    assert deep[0] == "composite to the margin"
    assert "sandwich.no_room" in deep[1]
