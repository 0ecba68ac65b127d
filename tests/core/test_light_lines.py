"""Lines of equal dose over need: they agree with the field, measured anew on the lines."""

import numpy as np
import pytest

from mallet.cavity.preparation import box_middle_mm
from mallet.cavity.rays import Scene
from mallet.curing.around import surroundings
from mallet.light.field import Filling, irradiance_mw_cm2
from mallet.plan import Worked
from mallet.rulebook import load_rulebook
from mallet.studies.light_lines import light_lines
from mallet.terms.case import read_case
from mallet.terms.plan import LightLine
from tests.core.conftest import first_case, with_values
from tests.core.planned import work


def in_the_tooth(line: LightLine, worked: Worked) -> np.ndarray:
    """Return a line's points (N, 3) in the tooth's frame."""
    across, up = np.array(line.points).T
    if line.view == "section":
        return np.column_stack([across, np.full_like(up, 0.01), up])
    box = worked.cavity.box("mesial")
    assert box is not None
    return np.column_stack([np.full_like(up, box_middle_mm(worked.cavity, box) + 0.01), across, up])


@pytest.mark.parametrize("school", ["wall_first", "horizontal"])
def test_the_dose_on_a_line_is_what_the_line_says(school: str) -> None:
    worked = work(read_case(with_values(first_case(), school__layering=school)))
    around = surroundings(
        worked.cavity, worked.bands, [n.solid for n in worked.neighbours], worked.lit.beam, load_rulebook()
    )
    lines = light_lines(worked)
    assert {line.view for line in lines} == {"section", "across_mesial"}
    assert {line.order for line in lines} == set(range(1, len(worked.lit.cured) + 1))
    placed: list[Filling] = []
    for order, cured in enumerate(worked.lit.cured, 1):
        placed.append(Filling(Scene(cured.portion.solid), 1 / cured.mass.penetration_depth_mm))
        weakest = cured.worst_dose_j_cm2 / cured.need.dose_j_cm2
        for line in (one for one in lines if one.order == order):
            # No point of a portion gets less than its dimmest, which the plan gives time enough.
            assert line.times_need >= 0.95 * weakest
            points = in_the_tooth(line, worked)
            assert placed[-1].scene.contains(points[1:-1]).mean() > 0.9
            light = [
                irradiance_mw_cm2(points, aim.tip, around.blockers, placed, passing=around.passing)
                for aim in cured.lit.aims
            ]
            times = np.array(cured.exposed.full_s) @ light / 1000 / cured.need.dose_j_cm2
            # Straight lines between the points of a grid, few rays: a tenth either way, most of them.
            assert np.mean(np.abs(times / line.times_need - 1) < 0.1) > 0.9, (line.view, order, times)
