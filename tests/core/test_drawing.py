"""The drawing: what it shows is what was planned, in the places that were measured."""

import math
from typing import Any

import numpy as np
import pytest

from mallet.cavity.sections import area_mm2
from mallet.drawing import Drawing, draw
from mallet.drawing.sheets import Sheet
from mallet.plan import Worked
from mallet.terms.case import get_path, read_case
from mallet.terms.parts import OcclusalBox, ProximalBox
from mallet.worked import read_worked
from tests.core.conftest import EXAMPLE, first_case, with_values
from tests.core.planned import work


def drawn(**values: Any) -> tuple[Worked, Drawing]:
    worked = work(read_case(with_values(first_case(), **values)))
    return worked, draw(worked)


def sheet(drawing: Drawing, view: str) -> Sheet:
    return next(s for s in drawing.sheets if s.view == view)


def test_every_increment_is_drawn_in_order_and_names_its_entry() -> None:
    worked, drawing = drawn()
    for view in ("section", "above", "across_mesial"):
        shapes = [s for s in sheet(drawing, view).shapes if s.role == "increment"]
        assert [s.order for s in shapes] == list(range(1, len(worked.plan.increments) + 1))
        for shape in shapes:
            assert shape.figure_path == f"increments[{shape.order - 1}]"
            assert shape.id == worked.plan.increments[shape.order - 1].id


def test_section_areas_make_up_the_tooth() -> None:
    """What is left of the tooth and the increments together are the whole outline."""
    _, drawing = drawn()
    section = sheet(drawing, "section")
    parts = [s for s in section.shapes if s.role == "increment" or s.id == "tooth"]
    outline = next(line for line in section.lines if line.id == "outline")
    assert sum(area_mm2(s.rings) for s in parts) == pytest.approx(area_mm2(outline.rings), rel=1e-3)


@pytest.mark.parametrize("view", ["section", "above"])
def test_dimensions_are_as_long_as_they_say(view: str) -> None:
    worked, drawing = drawn()
    for dimension in sheet(drawing, view).dimensions:
        assert math.dist(dimension.p0, dimension.p1) == pytest.approx(dimension.value, abs=2e-3)
        assert get_path(worked.case, dimension.case_path) == dimension.value
        assert dimension.min <= dimension.value <= dimension.max
        assert dimension.state == worked.case.provenance_of(dimension.case_path)
        assert dimension.step == 0.1


def test_every_size_of_the_preparation_has_a_dimension() -> None:
    _, drawing = drawn()
    paths = {d.case_path for s in drawing.sheets for d in s.dimensions}
    sizes = {
        0: ("depth_mm", "width_mm", "length_mm"),
        1: ("height_mm", "width_mm", "axial_depth_mm"),
    }
    assert paths == {f"preparation.parts[{i}].{name}" for i, names in sizes.items() for name in names}


@pytest.mark.parametrize(
    ("path", "by"),
    [
        ("preparation.parts[1].height_mm", 0.4),
        ("preparation.parts[1].axial_depth_mm", 0.2),
        ("preparation.parts[1].width_mm", 0.4),
        ("preparation.parts[0].depth_mm", 0.3),
        ("preparation.parts[0].length_mm", 0.4),
        ("preparation.parts[0].width_mm", 0.4),
    ],
)
def test_the_far_end_is_the_one_that_moves(path: str, by: float) -> None:
    """A dimension that grows moves p1 away from p0, and p0 too where both ends move."""

    def dimension(**values: Any) -> Any:
        _, drawing = drawn(**values)
        return next(d for s in drawing.sheets for d in s.dimensions if d.case_path == path)

    before = dimension()
    keys = path.replace("[", ".").replace("]", "").replace(".", "__")
    after = dimension(**{keys: before.value + by})
    along = np.subtract(before.p1, before.p0) / before.value
    moved = [float(np.subtract(a, b) @ along) for a, b in ((after.p0, before.p0), (after.p1, before.p1))]
    assert moved[1] - moved[0] == pytest.approx(by, abs=5e-3)
    if before.both_ends:
        assert moved[1] == pytest.approx(by / 2, abs=5e-3)
    else:
        assert abs(moved[1]) > abs(moved[0])


def test_the_weakest_point_lies_in_its_increment() -> None:
    worked, drawing = drawn()
    mark = next(m for m in sheet(drawing, "section").marks if m.id == "worst")
    ratio = min(i.cured.dose_at_worst_point_j_cm2 / i.cured.dose_needed_j_cm2 for i in worked.plan.increments)
    assert f"{ratio:.2f}" in mark.text
    weakest = min(
        worked.plan.increments, key=lambda i: i.cured.dose_at_worst_point_j_cm2 / i.cured.dose_needed_j_cm2
    )
    assert mark.at == pytest.approx([weakest.cured.worst_point.x, weakest.cured.worst_point.z], abs=1e-3)


def test_tip_stands_over_the_aim_as_wide_as_the_lamp_says() -> None:
    _, drawing = drawn()
    left, right = (m for m in sheet(drawing, "section").marks if m.id.startswith("tip"))
    assert right.at[0] - left.at[0] == pytest.approx(9.0, abs=2e-3)
    assert left.at[1] == right.at[1] > 7.0
    assert "1148 mW" in right.text


@pytest.mark.parametrize(
    ("code", "neighbour", "mirrored", "upper"),
    [
        ("16", "15", False, True),
        ("26", "25", True, True),
        ("36", "35", False, False),
        ("46", "45", True, False),
    ],
)
def test_the_quadrant_tells_how_to_turn_the_picture(
    code: str, neighbour: str, mirrored: bool, upper: bool
) -> None:
    beside = {"mesial": {"tooth": neighbour}}
    _, drawing = drawn(tooth__code=code, neighbours=beside)
    assert (drawing.mirrored, drawing.upper) == (mirrored, upper)
    names = [m.text for m in sheet(drawing, "section").marks if m.id.startswith(("tooth", "name"))]
    assert names == [code, neighbour]


def test_band_and_wedge_stand_between_the_teeth() -> None:
    worked, drawing = drawn()
    shapes = {s.id: s for s in sheet(drawing, "section").shapes}
    band, wedge = shapes["band.mesial"], shapes["wedge.mesial"]
    rings = np.array(band.rings[0])
    assert rings[:, 1].min() == pytest.approx(worked.bands[0].bottom_mm, abs=1e-3)
    assert rings[:, 1].max() == pytest.approx(worked.bands[0].top_mm, abs=1e-3)
    foot = np.array(wedge.rings[0])
    fitted = worked.bands[0].wedge
    assert fitted
    gap = worked.bands[0].beside.gap_mm(worked.cavity.crown, fitted.base_mm)  # type: ignore[union-attr]
    assert np.ptp(foot[:, 0]) == pytest.approx(gap, abs=0.02)
    assert np.ptp(foot[:, 1]) == pytest.approx(fitted.height_mm, abs=2e-3)


def test_contours_climb_the_cusps() -> None:
    _, drawing = drawn()
    lines = [line for line in sheet(drawing, "above").lines if line.material == "contour"]
    areas = [area_mm2(line.rings) for line in lines]
    assert len(lines) == 5
    assert areas == sorted(areas)
    assert len(lines[1].rings) >= 4


def test_each_part_is_where_it_is_drawn() -> None:
    """From above a box is as wide as it was measured; every part with a length is within 2 mm of it."""
    case = read_worked(EXAMPLE.parent / "worked" / "amalgam_full_cover.json")[1]
    drawing = draw(work(case))
    above = {place.path: place for place in sheet(drawing, "above").parts}
    assert set(above) == {f"preparation.parts[{i}]" for i in range(len(case.preparation.parts))}
    for i, part in enumerate(case.preparation.parts):
        if isinstance(part, OcclusalBox | ProximalBox):
            place = above[f"preparation.parts[{i}]"]
            assert place.high[1] - place.low[1] == pytest.approx(part.width_mm)
    for one in drawing.sheets:
        places = {place.path: place for place in one.parts}
        for length in one.dimensions:
            place = places[length.case_path.rpartition(".")[0]]
            for end in (length.p0, length.p1):
                off = [
                    max(low - x, x - high) for low, x, high in zip(place.low, end, place.high, strict=True)
                ]
                assert max(off) < 2.0, (one.view, length.case_path, off)


def test_a_missing_neighbour_is_not_drawn() -> None:
    _, drawing = drawn(neighbours__mesial__missing=True)
    ids = {s.id for s in sheet(drawing, "section").shapes}
    assert not any(i.startswith(("neighbour", "wedge")) for i in ids)
    assert "band.mesial" in ids
