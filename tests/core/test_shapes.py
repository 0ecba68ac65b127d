"""Solids as files, read back by another library."""

import io
from functools import cache
from typing import Any

import numpy as np
import pytest
import trimesh

from mallet.plan import Worked
from mallet.studies.shapes import shape_file, solids_of
from mallet.terms.case import read_case
from mallet.terms.errors import InputError
from tests.core.conftest import first_case
from tests.core.planned import work


@cache
def first_worked() -> Worked:
    return work(read_case(first_case()))


def read(data: bytes, kind: str) -> Any:
    return trimesh.load_mesh(io.BytesIO(data), file_type=kind)


@pytest.mark.parametrize("kind", ["stl", "ply"])
def test_what_is_written_is_read_back_closed_and_as_large(kind: str) -> None:
    for name, solid in solids_of(first_worked()).items():
        mesh = read(shape_file(first_worked(), name, kind), kind)
        mesh.merge_vertices()
        assert mesh.volume == pytest.approx(solid.volume(), rel=1e-4), name
        x0, y0, z0, x1, y1, z1 = solid.bounding_box()
        assert mesh.bounds.ravel() == pytest.approx([x0, y0, z0, x1, y1, z1], abs=1e-4), name


def test_what_was_cut_off_is_what_is_filled() -> None:
    volumes = {
        name: read(shape_file(first_worked(), name, "ply"), "ply").volume
        for name in ("before", "after", "restoration")
    }
    assert volumes["before"] - volumes["after"] == pytest.approx(volumes["restoration"], rel=1e-4)


def test_a_tooth_of_the_other_side_is_its_mirror_image() -> None:
    """Quadrants 2 and 4 are computed as if they were 1 and 3: on the way out mesial changes sides."""
    case = first_case()
    case["tooth"]["code"], case["neighbours"], case["provenance"] = "46", {}, {}
    other = work(read_case(case))
    here, there = (read(shape_file(one, "restoration", "stl"), "stl") for one in (first_worked(), other))
    assert here.bounds[:, 0] == pytest.approx(-there.bounds[::-1, 0], abs=1e-4)
    assert there.volume == pytest.approx(here.volume, rel=1e-4)
    assert here.volume > 0
    assert np.allclose(here.bounds[:, 1:], there.bounds[:, 1:], atol=1e-4)


@pytest.mark.parametrize(
    ("name", "kind", "line"),
    [
        ("crown", "stl", "shape: got 'crown', allowed one of before"),
        ("pulp", "obj", "format: got 'obj', allowed stl"),
    ],
)
def test_what_there_is_not_is_named(name: str, kind: str, line: str) -> None:
    with pytest.raises(InputError, match=line):
        shape_file(first_worked(), name, kind)
