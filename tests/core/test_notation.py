"""Tooth notation against published pairs (ISO 3950 and the 1-32, A-T numbering; from memory)."""

import pytest

from mallet.terms.errors import InputError
from mallet.tooth.notation import ToothName, read_tooth

PAIRS = ["18-1", "11-8", "21-9", "28-16", "38-17", "31-24", "41-25", "48-32", "55-A", "51-E", "61-F", "65-J", "75-K", "71-O", "81-P", "85-T"]  # fmt: skip


@pytest.mark.parametrize("pair", PAIRS)
def test_two_digit_code_meets_the_numbered_one(pair: str) -> None:
    iso, number = pair.split("-")
    assert read_tooth(iso).number == number


def test_every_tooth_is_read_in_all_three_notations() -> None:
    teeth = [ToothName(q, p) for q in (1, 2, 3, 4) for p in range(1, 9)]
    assert sorted(int(t.number) for t in teeth) == list(range(1, 33))
    deciduous = [ToothName(q, p) for q in (5, 6, 7, 8) for p in range(1, 6)]
    assert "".join(sorted(t.number for t in deciduous)) == "ABCDEFGHIJKLMNOPQRST"
    assert len({t.right_angle for t in (*teeth, *deciduous)}) == 52
    for tooth in (*teeth, *deciduous):
        assert read_tooth(tooth.iso) == read_tooth(f"#{tooth.number}") == tooth
        assert read_tooth(tooth.right_angle) == tooth


def test_neighbours_lie_along_the_row_and_across_the_midline() -> None:
    assert read_tooth("36").neighbour("mesial") == read_tooth("35")
    assert read_tooth("36").neighbour("distal") == read_tooth("37")
    assert read_tooth("11").neighbour("mesial") == read_tooth("21")
    assert read_tooth("48").neighbour("distal") is None
    assert read_tooth("75").neighbour("distal") == read_tooth("36")
    assert read_tooth("75").neighbour("mesial") == read_tooth("74")
    assert read_tooth("51").neighbour("mesial") == read_tooth("61")
    assert read_tooth("75").stands_for(read_tooth("35"))
    assert not read_tooth("85").stands_for(read_tooth("35"))


@pytest.mark.parametrize("code", ["", "19", "39", "#33", "56", "95", "#U", "tooth", "3 6"])
def test_what_is_no_tooth_is_refused_with_what_is_allowed(code: str) -> None:
    with pytest.raises(InputError, match=r"tooth.code: got .* allowed a tooth"):
        read_tooth(code)
