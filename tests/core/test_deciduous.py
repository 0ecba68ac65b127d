"""Deciduous teeth are planned like the permanent ones, and stand beside them."""

from typing import Any

import pytest

from mallet.plan import Worked
from mallet.stages.isolate import dam_teeth, nerves
from mallet.terms.case import read_case
from mallet.terms.errors import InputError
from mallet.tooth import read_tooth
from tests.core.conftest import first_case
from tests.core.planned import work

FLOOR = {"kind": "occlusal_box", "depth_mm": 1.5, "width_mm": 1.4, "length_mm": 2.6}
BOX = {"kind": "proximal_box", "side": "distal", "height_mm": 3.0, "width_mm": 2.6, "axial_depth_mm": 1.0}
NECK = {"kind": "saucer", "width_mm": 2.5, "height_mm": 1.6, "depth_mm": 0.8, "above_cervical_mm": 0.4}
EDGE = {"kind": "incisal_fracture", "mesial_mm": 1.5, "distal_mm": 1.5}


def planned(code: str, surfaces: str, parts: list[dict[str, Any]], **more: Any) -> Worked:
    case = {
        **first_case(),
        "tooth": {"code": code},
        "restoration": {"material": "composite", "surfaces": surfaces},
        "preparation": {"remaining_dentin_mm": 1.0, "parts": parts},
        "neighbours": {},
        "patient": {"age_years": 7},
        "provenance": {},
        **more,
    }
    return work(read_case(case))


@pytest.mark.parametrize("quadrant", [5, 6, 7, 8])
@pytest.mark.parametrize("position", [4, 5])
def test_a_deciduous_molar_gets_floor_and_box_band_and_light(quadrant: int, position: int) -> None:
    worked = planned(f"{quadrant}{position}", "DO", [FLOOR, BOX])
    cavity = worked.cavity
    assert cavity.filling.volume() + cavity.remaining_tooth.volume() == pytest.approx(
        cavity.outer.solid.volume()
    )
    assert sum(one.volume_mm3 for one in worked.plan.increments) == pytest.approx(
        worked.plan.geometry.volume_mm3
    )
    behind = f"{quadrant}5" if position == 4 else f"{quadrant - 4}6"
    assert [one.tooth.iso for one in worked.neighbours] == [behind]
    assert len(worked.bands) == 1
    assert all(check.verdict != "fail" for check in worked.plan.checks if check.topic == "increment.dose")


@pytest.mark.parametrize(
    ("code", "surfaces", "part"),
    [("53", "F", NECK), ("61", "MID", EDGE), ("85", "L", {**NECK, "face": "lingual"})],
)
def test_faces_and_edges_of_deciduous_teeth_too(code: str, surfaces: str, part: dict[str, Any]) -> None:
    worked = planned(code, surfaces, [part])
    assert worked.plan.geometry.volume_mm3 > 0.5
    assert worked.plan.tooth["name"].split()[2] == "primary"


def test_mixed_rows_stand_side_by_side() -> None:
    """A first permanent molar stands behind the second deciduous one until that is shed (from memory)."""
    molar = first_case()["preparation"]["parts"]
    kept = {"mesial": {"tooth": "75"}}
    worked = planned("36", "MO", molar, neighbours=kept)
    assert [one.tooth.iso for one in worked.neighbours] == ["75"]
    with pytest.raises(InputError, match=r"adjacent.mesial.tooth"):
        planned("36", "MO", molar, neighbours={"mesial": {"tooth": "85"}})
    assert [tooth.iso for tooth in dam_teeth(read_tooth("75"), "two_in_front")] == ["36", "75", "74", "73"]
    assert nerves(read_tooth("74"))[1].startswith("long buccal")
