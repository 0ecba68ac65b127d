"""Handbook crowns against the published table, written out here a second time."""

import itertools

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from mallet.cavity.crowns import shell_solid
from mallet.rulebook import Rulebook, load_rulebook
from mallet.tooth.crown import AROUND, loft_crown
from mallet.tooth.notation import ToothName

# Nelson & Ash, Wheeler's Dental Anatomy, Physiology and Occlusion (from memory): crown height,
# mesiodistal, MD at neck, buccolingual, BL at neck, curvature of the cervical line mesial, distal.
HANDBOOK = {
    "upper": """
        10.5 8.5 7.0 7.0 6.0 3.5 2.5
        9.0 6.5 5.0 6.0 5.0 3.0 2.0
        10.0 7.5 5.5 8.0 7.0 2.5 1.5
        8.5 7.0 5.0 9.0 8.0 1.0 0
        8.5 7.0 5.0 9.0 8.0 1.0 0
        7.5 10.0 8.0 11.0 10.0 1.0 0
        7.0 9.0 7.0 11.0 10.0 1.0 0
        6.5 8.5 6.5 10.0 9.5 1.0 0""",
    "lower": """
        9.0 5.0 3.5 6.0 5.3 3.0 2.0
        9.5 5.5 4.0 6.5 5.8 3.0 2.0
        11.0 7.0 5.5 7.5 7.0 2.5 1.0
        8.5 7.0 5.0 7.5 6.5 1.0 0
        8.0 7.0 5.0 8.0 7.0 1.0 0
        7.5 11.0 9.0 10.5 9.0 1.0 0
        7.0 10.5 8.0 10.0 9.0 1.0 0
        7.0 10.0 7.5 9.5 9.0 1.0 0""",
}
BACK_TEETH = [ToothName(q, p) for q in (1, 2, 3, 4) for p in range(4, 9)]


@pytest.mark.parametrize("jaw", ["upper", "lower"])
def test_the_rulebook_s_crowns_are_the_handbook_s(jaw: str, book: Rulebook) -> None:
    table = [[float(v) for v in line.split()] for line in HANDBOOK[jaw].strip().splitlines()]
    assert book.crowns[jaw]["dims"] == table


@pytest.mark.parametrize("tooth", BACK_TEETH, ids=lambda t: t.iso)
def test_a_back_tooth_has_its_cusps_and_a_groove_between(tooth: ToothName, book: Rulebook) -> None:
    """Cusp counts by kind: upper molars 4, first premolars 2, lower first molar 5 (handbook)."""
    crown = loft_crown(tooth, book)
    cap = crown.cap
    heights = cap[..., 2]
    shape = book.crowns["shapes"][
        book.crowns["upper" if tooth.is_upper else "lower"]["shapes"][tooth.position - 1]
    ]
    expected = {
        "upper_molar": 4,
        "lower_first_molar": 5,
        "lower_molar": 4,
        "upper_premolar": 2,
        "lower_first_premolar": 2,
        "lower_second_premolar": 3,
    }
    names = {id(v): k for k, v in book.crowns["shapes"].items()}
    assert len(shape["cusps"]) == expected[names[id(shape)]]
    facial, lingual = heights[:, 1 : AROUND // 2], heights[:, AROUND // 2 + 1 :]
    groove = crown.groove_mm(-1.0, 1.0)
    tips = [facial.max() - groove, lingual.max() - groove]
    assert max(tips) > 1.5
    # The lingual cusp of a lower first premolar is the one that hardly rises.
    assert min(tips) > (0.0 if tooth.position == 4 and not tooth.is_upper else 0.9)
    assert crown.contact_mm["distal"] <= crown.contact_mm["mesial"]


@pytest.mark.parametrize("tooth", BACK_TEETH, ids=lambda t: t.iso)
def test_shells_nest_and_are_closed(tooth: ToothName, book: Rulebook) -> None:
    outer, dentin, pulp, barrel = (
        shell_solid(tooth, book, shell).solid for shell in ("outer", "dentin", "pulp", "barrel")
    )
    volumes = [s.volume() for s in (pulp, dentin, outer, barrel)]
    assert volumes == sorted(volumes)
    assert all(v > 0 for v in volumes)
    assert all(s.genus() == 0 for s in (outer, dentin, pulp, barrel))
    # The pulp keeps clear of the surface by enamel and dentin.
    assert pulp.min_gap(outer ^ outer.translate((0, 0, 20)), 3.0) >= 0
    assert (pulp - dentin).volume() < 1e-6


@given(z=st.floats(-3.9, 5.5), side=st.sampled_from(["mesial", "distal"]))
@settings(max_examples=60, deadline=None)
def test_the_outer_surface_read_at_a_height_is_on_the_mesh(z: float, side: str) -> None:
    book = load_rulebook()
    tooth = ToothName(3, 6)
    crown = loft_crown(tooth, book)
    solid = shell_solid(tooth, book).solid
    x = crown.outer_x_mm(side, z)
    sign = 1.0 if side == "mesial" else -1.0
    assert sign * x > 0
    polygon = np.concatenate([np.asarray(p) for p in solid.slice(z).to_polygons()])
    reach = polygon[:, 0].max() if side == "mesial" else polygon[:, 0].min()
    assert reach == pytest.approx(x, abs=0.02)


@given(x=st.floats(-6, 6), z=st.floats(-3, 5))
@settings(max_examples=60, deadline=None)
def test_half_breadth_is_zero_outside_and_less_than_the_tooth_inside(x: float, z: float) -> None:
    crown = loft_crown(ToothName(3, 6), load_rulebook())
    breadth = crown.half_breadth_mm(x, z)
    beyond = x > crown.outer_x_mm("mesial", z) or x < crown.outer_x_mm("distal", z)
    assert breadth == 0 if beyond else 0 <= breadth <= crown.buccolingual_mm / 2 + 0.05


def test_the_groove_is_the_lowest_of_a_stretch(book: Rulebook) -> None:
    crown = loft_crown(ToothName(3, 6), book)
    whole = crown.groove_mm(-3, 3)
    pieces = [crown.groove_mm(a, b) for a, b in itertools.pairwise((-3, -1, 1, 3))]
    assert whole == pytest.approx(min(pieces))
    assert crown.groove_mm(3, -3) == whole


def test_measured_rules_change_the_estimates_and_nothing_else(book: Rulebook) -> None:
    tooth = ToothName(3, 6)
    wide = book.with_house({"tooth.pulp_share_of_neck": 0.6})
    assert shell_solid(tooth, wide, "pulp").solid.volume() > shell_solid(tooth, book, "pulp").solid.volume()
    same = shell_solid(tooth, wide).solid.volume()
    assert same == pytest.approx(shell_solid(tooth, book).solid.volume())
    thick = book.with_house({"tooth.enamel_contact_mm": 2.0})
    thin = shell_solid(tooth, thick, "dentin").solid.volume()
    assert thin < shell_solid(tooth, book, "dentin").solid.volume()
