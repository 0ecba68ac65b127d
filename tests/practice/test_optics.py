"""Spectra of a composite in stock: read from a file, told by line or wavelength where they cannot be."""

import math

import pytest

from mallet.terms.errors import InputError
from practice.equipment.models import Item
from practice.equipment.optics import read_spectra
from tests.practice.conftest import Caller

pytestmark = pytest.mark.django_db
READINGS = ("over_black", "over_white", "black", "white")
# K 0.2 and S 1 per mm, 1 mm of it, over 0.04 and over 0.85: two-flux theory, worked by hand.
INSIDE = (0.433305, 0.637275, 0.04, 0.85)


def outside(inside: float) -> float:
    """Return what is read, without gloss, under a polished surface (Saunderson 1942, from memory); 0.5 reads 0.276."""
    return 0.96 * (1 - 0.596) * inside / (1 - 0.596 * inside)


def lines() -> list[list[str]]:
    return [[str(nm), *(f"{outside(one):.6f}" for one in INSIDE)] for nm in range(400, 701, 10)]


def text_of(rows: list[list[str]]) -> str:
    return "\n".join(",".join(row) for row in [["wavelength_nm", *READINGS], *rows])


def test_spectra_are_kept_told_and_asked_for_by_no_one_s_stock_file(call: Caller) -> None:
    item = Item.objects.get(name="Skarv enamel")
    del item.properties["optics"]
    item.save()
    path = f"stock/{item.pk}/color"
    assert call("get", path) == (200, {"color": None})
    status, told = call("put", path, {"text": text_of(lines()), "thickness_mm": 1.0})
    assert status == 200
    deep = 1.2 - math.sqrt(1.2**2 - 1)
    # A gray is as light as its reflectance says (CIE 15).
    assert told["color"]["deep"] == pytest.approx([116 * outside(deep) ** (1 / 3) - 16, 0, 0], abs=0.1)
    assert told["color"]["over_black"][0] < told["color"]["deep"][0] < told["color"]["over_white"][0]
    assert told["color"]["accepted_from_mm"] < told["color"]["unseen_from_mm"]
    assert call("get", path) == (200, told)
    (kept,) = (one for one in call("get", "stock")[1]["items"] if one["id"] == item.pk)
    assert not [name for name in kept["properties"] if name.startswith("optics")]


@pytest.mark.parametrize(
    ("at", "cell", "value", "path"),
    [
        (3, 1, "1.4", "line 5, over_black"),
        (3, 2, "high", "line 5, over_white"),
        (3, 0, "420", "wavelength_nm"),
        (3, 2, "0.1", "line 5, over_white"),
    ],
)
def test_what_cannot_be_is_named_and_nothing_is_lost(at: int, cell: int, value: str, path: str) -> None:
    rows = lines()
    rows[at][cell] = value
    with pytest.raises(InputError) as caught:
        read_spectra(text_of(rows), 1.0)
    (problem,) = caught.value.problems
    assert problem.path == path


def test_a_specimen_too_opaque_or_not_a_composite_is_refused(call: Caller) -> None:
    item = Item.objects.get(name="Skarv enamel")
    before = item.properties["optics"]
    opaque = [[row[0], "0.500000", "0.500001", *row[3:]] for row in lines()]
    status, told = call("put", f"stock/{item.pk}/color", {"text": text_of(opaque), "thickness_mm": 1.0})
    assert status == 422
    assert told["problems"][0]["path"].startswith("optics.thickness_mm")
    assert "measure at 0.5 mm" in told["problems"][0]["allowed"]
    item.refresh_from_db()
    assert item.properties["optics"] == before
    other = Item.objects.exclude(kind="mass").first()
    assert other
    assert call("get", f"stock/{other.pk}/color")[0] == 404
