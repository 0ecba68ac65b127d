"""Where a cavity starts from: every tooth and every surface has one that is planned, and what has none says so."""

import itertools
from typing import Any

import pytest

from mallet.plan import plan
from mallet.rulebook import Rulebook
from mallet.studies.starting import opened, start_of
from mallet.terms.case import get_path, read_case
from mallet.terms.errors import InputError
from mallet.terms.plan import Plan
from tests.core.conftest import first_case

POSTERIOR = ["O", "M", "D", "MO", "OD", "MOD", "F", "L", "MODF", "MODL", "OF", "MODFL"]
ANTERIOR = ["M", "D", "ML", "DL", "MF", "MFL", "F", "L", "MI", "ID", "MID"]
UPPER_RIGHT = [f"1{i}" for i in range(1, 9)] + [f"4{i}" for i in range(1, 9)]
PRIMARY = [f"{q}{i}" for q in (5, 8) for i in range(1, 6)]


def surfaces_of(code: str) -> list[str]:
    return POSTERIOR if int(code[1]) > 3 else ANTERIOR


def case_of(code: str, surfaces: str, cause: Any = "caries") -> dict[str, Any]:
    start = start_of(code, surfaces, cause)
    return {
        "format": "mallet-case/2",
        "tooth": {"code": code},
        "restoration": {"material": "glass_ionomer", "surfaces": start.surfaces},
        "preparation": {"parts": start.parts},
        "provenance": start.provenance,
    }


@pytest.mark.parametrize("code", [*UPPER_RIGHT, *PRIMARY])
def test_every_tooth_has_a_start_for_its_surfaces_or_says_why_not(code: str) -> None:
    """All sizes are marked estimated and lie in the tooth, by the cavity that is cut."""
    own = surfaces_of(code)
    found = 0
    for surfaces in own:
        try:
            told = case_of(code, surfaces)
        except InputError as refused:
            # What has none says so by its surfaces.
            if refused.problems[0].path != "surfaces":
                raise
            continue
        found += 1
        case = read_case(told)
        assert set(told["restoration"]["surfaces"]) == set(surfaces)
        for path in case.provenance:
            assert get_path(case, path) is not None
    assert found >= len(own) - 2


@pytest.mark.parametrize(("code", "surfaces"), [
    ("36", "MO"), ("15", "MOD"), ("46", "F"), ("47", "O"), ("24", "OD"), ("75", "OD"), ("13", "F"), ("11", "ML"), ("12", "DFL"), ("21", "MI"),
    ("17", "MODL"),
])  # fmt: skip
def test_ten_ordinary_starts_are_planned(code: str, surfaces: str) -> None:
    """As the Bench asks for them: in composite, under the first case's light, and no check of what is cut fails."""
    told, first = case_of(code, surfaces), read_case(first_case())
    composite = first.restoration.model_dump(mode="json", exclude_none=True)
    told["restoration"] = {**composite, "surfaces": told["restoration"]["surfaces"]}
    made = plan(read_case(told))
    assert isinstance(made, Plan)
    failing = [c.topic for c in made.checks if c.verdict == "fail" and c.topic.startswith("prepare.")]
    assert failing == []
    assert made.wanted_before


def test_the_reason_decides_what_is_cut() -> None:
    kinds = {
        cause: [part["kind"] for part in start_of("36", surfaces, cause).parts]
        for cause, surfaces in (("caries", "F"), ("wear", "F"), ("deep_fissures", "O"), ("core", "MOD"))
    }
    assert kinds == {
        "caries": ["saucer_lesion"],
        "wear": ["wedge_lesion"],
        "deep_fissures": ["sealant_groove"],
        "core": ["occlusal_box", "proximal_box", "proximal_box", "cusp_reduction"],
    }
    assert start_of("36", "O", "lost_sealant").material == "sealant"


def test_cavities_follow_the_tooth() -> None:
    """A box grows with the crown that it is cut in, and its floor lies below the contact."""
    sizes = {code: start_of(code, "MO").parts[1] for code in ("34", "36", "75")}
    assert sizes["34"]["width_mm"] < sizes["36"]["width_mm"]
    assert sizes["75"]["axial_depth_mm"] < sizes["36"]["axial_depth_mm"]


@pytest.mark.parametrize(
    ("code", "surfaces"), [("36", ""), ("36", "MI"), ("36", "MM"), ("11", "O"), ("36", "FL"), ("11", "MD")]
)
def test_surfaces_that_no_restoration_has_are_told(code: str, surfaces: str) -> None:
    with pytest.raises(InputError) as refused:
        start_of(code, surfaces)
    assert refused.value.problems[0].path == "surfaces"


def test_a_tooth_that_there_is_not_is_told(book: Rulebook) -> None:
    with pytest.raises(InputError):
        start_of("39", "O", book=book)
    assert len(list(itertools.islice(start_of("36", "O").provenance, 9))) == 3


def asked_of(material: str) -> dict[str, Any]:
    composite = read_case(first_case()).model_dump(mode="json", exclude_unset=True)["restoration"]
    return (
        {**composite, "surfaces": "O"} if material == "composite" else {"material": material, "surfaces": "O"}
    )


@pytest.mark.parametrize("code", ["16", "24", "37", "46", "75"])
def test_a_fissure_with_caries_below_is_opened_and_planned(code: str) -> None:
    """All that is cut is estimated; what else was told stays."""
    sealed = {**case_of(code, "O", "deep_fissures"), "patient": {"age_years": 14}}
    sealed["provenance"]["tooth.vitality"] = "estimated"
    told = opened({**sealed, "findings": {"cause": "deep_fissures", "field": "dam", "cavitated": False}})
    (box,) = told["preparation"]["parts"]
    assert box["kind"] == "occlusal_box"
    sizes = {f"preparation.parts[0].{name}" for name in box if name.endswith("_mm")}
    assert told["provenance"] == {"tooth.vitality": "estimated", **dict.fromkeys(sizes, "estimated")}
    assert told["findings"] == {"cause": "caries", "caries_found": True, "field": "dam", "cavitated": False}
    made = plan(read_case(told))
    assert isinstance(made, Plan)
    assert "prepare.caries" in {step.id for step in made.steps}
    for material in ("composite", "glass_ionomer", "amalgam"):
        assert isinstance(plan(read_case({**told, "restoration": asked_of(material)})), Plan)
    (weighed,) = (d for d in made.decisions if d.topic == "choose.material")
    assert next(one for one in weighed.options if one.id == "sealant").is_stopped
