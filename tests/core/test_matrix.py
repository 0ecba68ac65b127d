"""Matrix and wedge against sums done by hand from handbook widths, and what the shelf lacks."""

from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from mallet.drawing import draw
from mallet.rulebook import load_rulebook
from mallet.stages.matrix_stock import BandKind, take_band, take_wedge
from mallet.terms.case import read_case
from mallet.terms.plan import Check, Decision
from mallet.terms.stock import MatrixBand, WedgeItem
from mallet.tooth import loft_crown, read_tooth
from tests.core.conftest import first_case
from tests.core.planned import work

RULES = load_rulebook()
# Tooth, side, neighbour, and the gap at the neck from mesiodistal widths (Nelson & Ash, from memory): half of
# what both measure at the contact, less half of what both measure at the neck; then the wedge in steps of 0.2
# that fills it with a band of 0.04 and 0.03 for rebound.
BY_HAND = [
    ("36", "mesial", "35", (11.0 + 7.0 - 9.0 - 5.0) / 2, 2.2),
    ("36", "distal", "37", (11.0 + 10.5 - 9.0 - 8.0) / 2, 2.4),
    ("47", "distal", "48", (10.5 + 10.0 - 8.0 - 7.5) / 2, 2.6),
    ("38", "mesial", "37", (10.0 + 10.5 - 7.5 - 8.0) / 2, 2.6),
    ("16", "mesial", "15", (10.0 + 7.0 - 8.0 - 5.0) / 2, 2.2),
    ("26", "distal", "27", (10.0 + 9.0 - 8.0 - 7.0) / 2, 2.2),
    ("17", "distal", "18", (9.0 + 8.5 - 7.0 - 6.5) / 2, 2.2),
    ("15", "mesial", "14", (7.0 + 7.0 - 5.0 - 5.0) / 2, 2.2),
    ("34", "distal", "35", (7.0 + 7.0 - 5.0 - 5.0) / 2, 2.2),
]
FACING = {"mesial": "distal", "distal": "mesial"}


def at_the_neck(code: str, side: str, beside: str, shelf: list[dict[str, Any]] | None = None) -> Any:
    """Return a worked slot down to the cervical line, the neighbour's line level with ours."""
    own, other = (loft_crown(read_tooth(one), RULES) for one in (code, beside))
    case = first_case()
    case["tooth"]["code"] = code
    case["restoration"]["surfaces"] = side[0].upper()
    box = {"kind": "proximal_box", "side": side, "height_mm": own.ridge_mm(side), "width_mm": 2.6,
           "axial_depth_mm": 0.8, "wall_divergence_deg": 0}  # fmt: skip
    case["preparation"] = {"parts": [box], "remaining_dentin_mm": 2.0}
    offset = other.ridge_mm(FACING[side]) - own.ridge_mm(side)
    case["neighbours"] = {side: {"tooth": beside, "ridge_offset_mm": offset}}
    case["provenance"], case["shelf"] = {}, shelf or []
    case["school"]["layering"] = "horizontal"
    # Clear enough for light to reach that far down.
    case["masses"][0]["penetration_depth_mm"] = 3.0
    return work(read_case(case))


@pytest.mark.parametrize(("code", "side", "beside", "gap", "width"), BY_HAND)
def test_the_wedge_is_what_a_sum_by_hand_gives(
    code: str, side: str, beside: str, gap: float, width: float
) -> None:
    worked = at_the_neck(code, side, beside)
    (band,) = worked.bands
    # The contacts do not lie quite level, so that the teeth stand a little closer.
    assert band.wedge.gap_mm == pytest.approx(gap, abs=0.06)
    assert band.wedge.width_mm == pytest.approx(width)
    (check,) = [c for c in worked.plan.checks if c.topic == f"contact.{side}"]
    assert check.measured == pytest.approx(width - band.wedge.gap_mm - 0.04, abs=0.01)
    assert check.measured >= 0.03
    section = draw(worked).sheets[0]
    shapes = {shape.id: np.array(shape.rings[0]) for shape in section.shapes if shape.rings}
    base = shapes[f"wedge.{side}"][:2]
    assert abs(base[0, 0] - base[1, 0]) == pytest.approx(
        band.beside.gap_mm(worked.cavity.crown, base[0, 1]), abs=0.01
    )
    heights = shapes[f"band.{side}"][:, 1]
    assert (heights.min(), heights.max()) == pytest.approx((band.bottom_mm, band.top_mm), abs=0.01)
    assert band.bottom_mm == pytest.approx(-0.75)


def band(height: float, form: str = "sectional") -> dict[str, Any]:
    name = f"{form} {height:g}"
    return {"kind": "band", "name": name, "form": form, "height_mm": height, "thickness_mm": 0.04}


def wedge(width: float, height: float) -> dict[str, Any]:
    return {"kind": "wedge", "name": f"wedge {width:g} {height:g}", "width_mm": width, "height_mm": height}


def decided(worked: Any) -> Decision:
    return next(d for d in worked.plan.decisions if d.topic.startswith("matrix."))


def test_what_would_not_do_is_told_with_what_fails_the_nearest_first() -> None:
    """36, slot of 2.0 mm gap: a wedge wants 2.07 mm; the contact stands 4.8 mm over a floor at the neck."""
    shelf = [band(3.0), band(5.5), band(9.0, "clear"), wedge(1.2, 1.0), wedge(2.0, 1.6), wedge(2.2, 1.8)]
    worked = at_the_neck("36", "mesial", "35", shelf)
    span = worked.bands[0].top_mm - worked.bands[0].bottom_mm
    told = [(miss.name, " ".join(r.text for r in miss.reasons)) for miss in decided(worked).missed]
    gap = worked.bands[0].wedge.gap_mm
    lacks = [gap + 0.07 - width for width in (2.0, 1.2)]
    assert told == [
        ("wedge 2 1.6", f"Too narrow by {lacks[0]:.1f} mm for the gap and what parts the teeth."),
        ("wedge 1.2 1", f"Too narrow by {lacks[1]:.1f} mm for the gap and what parts the teeth."),
        ("sectional 5.5", f"Too low by {span - 5.5:.1f} mm."),
        ("sectional 3", f"Too low by {span - 3:.1f} mm."),
        ("clear 9", "It is clear; required is sectional."),
    ]


def test_of_wide_enough_wedges_one_that_stays_below_the_contact_is_taken() -> None:
    high, low = (
        WedgeItem(kind="wedge", name="high", width_mm=2.2, height_mm=2.4),
        WedgeItem(kind="wedge", name="low", width_mm=2.4, height_mm=1.4),
    )
    taken, missed = take_wedge([high, low], 2.0, 1.6)
    assert taken is low
    assert [(m.name, m.reasons[0].text) for m in missed] == [("high", "It reaches 0.8 mm into the contact.")]
    assert take_wedge([high], 2.0, 1.6)[0] is high
    assert take_wedge([high, low], 2.0, 3.0)[0] is high


@given(widths=st.lists(st.floats(0.9, 4.5), max_size=6), pair=st.sampled_from([row[:3] for row in BY_HAND]))
@settings(max_examples=15, deadline=None)
def test_teeth_always_spring_back_into_contact(widths: list[float], pair: tuple[str, str, str]) -> None:
    shelf = [wedge(round(width, 1), round(0.6 * width, 1)) for width in widths]
    worked = at_the_neck(*pair, shelf)
    (check,) = [c for c in worked.plan.checks if c.topic == f"contact.{pair[1]}"]
    assert isinstance(check, Check)
    assert check.measured >= 0.03 - 1e-9


@given(
    heights=st.lists(st.floats(2, 15), max_size=6),
    forms=st.lists(st.sampled_from(["sectional", "clear", "circumferential"]), min_size=6, max_size=6),
    kind=st.sampled_from(["sectional", "clear", "circumferential"]),
    span=st.floats(3, 12),
)
@settings(max_examples=60, deadline=None)
def test_every_band_is_taken_or_fits_as_well_or_is_amiss(
    heights: list[float], forms: list[str], kind: BandKind, span: float
) -> None:
    shelf = [
        MatrixBand.model_validate({**band(height, form), "name": f"{i}"})
        for i, (height, form) in enumerate(zip(heights, forms, strict=False))
    ]
    taken, missed = take_band(shelf, kind, span)
    amiss = {miss.name for miss in missed}
    fits = {one.name for one in shelf if one.form == kind and one.height_mm >= span - 1e-9}
    assert amiss == {one.name for one in shelf} - fits
    assert (taken is not None) == bool(fits)
    assert taken is None or all(taken.height_mm <= one.height_mm for one in shelf if one.name in fits)


def test_a_band_stands_as_high_as_the_cusps_that_are_built_behind_it() -> None:
    """Bands stand level with the neighbour's ridge; where a cusp is built, as high as that: common practice."""
    case = first_case()
    without = work(read_case(case)).bands[0]
    cover = {"kind": "cusp_reduction", "cusps": ["mesiofacial", "distolingual"], "tip_mm": 2.0}
    case["preparation"]["parts"].append(cover)
    worked = work(read_case(case))
    (band,) = worked.bands
    assert band.top_mm == pytest.approx(worked.cavity.crown.cusps["mesiofacial"][2])
    assert band.top_mm > without.top_mm + 0.5
    reasons = decided(worked).reasons
    assert "Cusp reduced (mesiofacial)" in reasons[0].text
    assert "band.level" not in {reason.code for reason in reasons}
