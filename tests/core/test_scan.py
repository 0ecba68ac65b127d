"""A scanned pair: what lies between is the cavity, and what is no such pair is told plainly."""

import base64
import io
import itertools
import json
from pathlib import Path
from typing import Any

import numpy as np
import pytest
import trimesh

from mallet.cli import main
from mallet.plan import Worked
from mallet.studies.shapes import shape_file
from mallet.terms.case import read_case
from mallet.terms.errors import InputError
from mallet.terms.plan import Plan
from tests.core.conftest import EXAMPLE, first_case, with_values
from tests.core.planned import plan, work
from tests.core.test_features import CASES as FEATURES
from tests.core.test_features import case_of
from tests.core.test_front import CORNER, front_case
from tests.core.test_neck import neck_case

SHIPPED = EXAMPLE.parent / "scans"
CASES = {
    "box": first_case(),
    "mirrored": with_values(first_case(), tooth__code="46", neighbours={}),
    "neck": neck_case(),
    "corner": front_case(CORNER, "MI", "21"),
    "pins": case_of(*FEATURES["pins"]),
}


def files_of(worked: Worked, kind: str = "stl") -> dict[str, str]:
    return {name: base64.b64encode(shape_file(worked, name, kind)).decode() for name in ("before", "after")}


def with_scan(case: dict[str, Any], scan: dict[str, str]) -> dict[str, Any]:
    return {**case, "preparation": {**case["preparation"], "scan": scan}}


@pytest.mark.parametrize(("name", "kind"), [*zip(CASES, itertools.cycle(["stl", "ply"])), ("box", "ply")])
def test_a_pair_gives_the_cavity_that_was_cut(name: str, kind: str) -> None:
    drawn = work(read_case(CASES[name]))
    scanned = work(read_case(with_scan(CASES[name], files_of(drawn, kind))))
    # A thin bevel is lost where two scans all but touch.
    assert scanned.plan.geometry.volume_mm3 == pytest.approx(drawn.plan.geometry.volume_mm3, rel=0.03)
    assert scanned.cavity.filling.surface_area() == pytest.approx(
        drawn.cavity.filling.surface_area(), rel=0.015
    )
    assert [one.id for one in scanned.plan.increments] == [one.id for one in drawn.plan.increments]
    for ours, theirs in zip(scanned.plan.increments, drawn.plan.increments, strict=True):
        assert ours.volume_mm3 == pytest.approx(theirs.volume_mm3, rel=0.03, abs=0.02)
        assert ours.cured.touches["tooth"] == pytest.approx(theirs.cured.touches["tooth"], rel=0.06, abs=0.3)
    light = scanned.plan.totals.light_seconds
    assert light == pytest.approx(drawn.plan.totals.light_seconds, abs=10)
    assert "prepare.scan_differs" not in {c.code for c in scanned.plan.cautions}


def changed(change: Any, name: str = "after") -> dict[str, str]:
    """Return the first case's pair with a mesh of one file changed."""
    worked = work(read_case(first_case()))
    scan = files_of(worked)
    mesh = trimesh.load(io.BytesIO(base64.b64decode(scan[name])), file_type="stl")
    made = change(mesh) or mesh
    return {**scan, name: base64.b64encode(made.export(file_type="stl")).decode()}


def moved(mesh: Any) -> None:
    mesh.apply_translation([4.0, 0.0, 0.0])


@pytest.mark.parametrize(
    ("change", "file", "got", "allowed"),
    [
        (
            lambda mesh: mesh.update_faces(np.arange(len(mesh.faces)) > 5),
            "after",
            "an open surface",
            "closed",
        ),
        (lambda mesh: mesh.invert(), "before", "inside out", "outward"),
        (lambda mesh: mesh.apply_scale(1 / 25.4) and None, "before", "across", "in millimeters"),
        (lambda mesh: mesh.apply_scale(1000) and None, "after", "across", "in millimeters"),
        (moved, "after", "outside the tooth before cutting", "one frame"),
    ],
    ids=["open", "flipped", "inches", "metres", "unaligned"],
)
def test_what_is_no_pair_is_refused(change: Any, file: str, got: str, allowed: str) -> None:
    with pytest.raises(InputError) as refused:
        plan(read_case(with_scan(first_case(), changed(change, file))))
    problem = refused.value.problems[0]
    assert problem.path == f"preparation.scan.{file}"
    assert got in problem.got
    assert allowed in problem.allowed


def test_a_pair_in_another_frame_or_without_a_cut_is_refused() -> None:
    worked = work(read_case(first_case()))
    scan = files_of(worked)

    def elsewhere(text: str) -> str:
        mesh = trimesh.load(io.BytesIO(base64.b64decode(text)), file_type="stl")
        mesh.apply_translation([0.0, 30.0, 0.0])
        return base64.b64encode(mesh.export(file_type="stl")).decode()

    both = {name: elsewhere(text) for name, text in scan.items()}
    for wrong, got in ((both, "in common"), ({**scan, "after": scan["before"]}, "the same as before")):
        with pytest.raises(InputError) as refused:
            plan(read_case(with_scan(first_case(), wrong)))
        assert got in refused.value.problems[0].got
    for text in (
        "no base64!",
        base64.b64encode(b"solid nothing").decode(),
        base64.b64encode(b"ply broken").decode(),
    ):
        with pytest.raises(InputError, match="STL or PLY"):
            plan(read_case(with_scan(first_case(), {**scan, "before": text})))


def test_measures_that_are_not_the_scan_s_are_cautioned() -> None:
    scan = files_of(work(read_case(first_case())))
    other = with_values(
        first_case(), preparation__parts__0__depth_mm=1.0, preparation__parts__0__length_mm=3.0
    )
    made = plan(read_case(with_scan(other, scan)))
    assert isinstance(made, Plan)
    assert "prepare.scan_differs" in {c.code for c in made.cautions}


def test_the_shipped_pair_is_the_first_case_s(capsys: pytest.CaptureFixture[str], tmp_path: Path) -> None:
    pair = [str(SHIPPED / f"lower_first_molar_{time}.ply") for time in ("before", "after")]
    assert main(["plan", str(EXAMPLE), "--scan", *pair]) == 0
    made = json.loads(capsys.readouterr().out)
    assert made["geometry"]["volume_mm3"] == pytest.approx(
        work(read_case(first_case())).cavity.filling.volume(), rel=0.01
    )
    assert main(["plan", str(EXAMPLE), "--scan", pair[0], str(tmp_path / "none.stl")]) == 2
    assert main(["plan", str(EXAMPLE), "--scan", pair[1], pair[0]]) == 2
    assert "preparation.scan.after: got" in capsys.readouterr().err
