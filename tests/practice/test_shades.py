"""The view of shades: how composites in stock look, what was told of them, and how far their lots are apart."""

from typing import Any

import pytest

from practice.equipment.models import Item, Specimen
from tests.practice.conftest import Caller

pytestmark = pytest.mark.django_db
LAB = {
    "kind": "lab", "thickness_mm": 1.0, "over_black": [62.0, -1.5, 5.0], "over_white": [76.0, 0.5, 14.0], "white": [95.0, 0.0, 0.0],
}  # fmt: skip
FAMILY = {"kind": "family", "opacity": "opaque", "tab": [78.0, 1.0, 15.0]}


def shade_of(call: Caller, name: str) -> dict[str, Any]:
    (found,) = (one for one in call("get", "shades")[1] if one["name"] == name)
    return found


def test_composites_are_told_by_their_looks_and_lots_by_how_far_they_are_off_the_first(call: Caller) -> None:
    enamel, dentin, bulk = (
        shade_of(call, name) for name in ("Skarv enamel", "Skarv dentin, opaque", "Skarv bulk")
    )
    assert bulk["color"] is None
    assert dentin["color"]["accepted_from_mm"] < enamel["color"]["accepted_from_mm"]
    # What shows of the mouth falls with thickness, and passes what is accepted where it is said to.
    for one in (enamel, dentin):
        shows = [(at["thickness_mm"], at["shows_de00"]) for at in one["color"]["masking"]]
        assert [de for _, de in shows] == sorted((de for _, de in shows), reverse=True)
        assert all((de <= 1.8) == (mm >= one["color"]["accepted_from_mm"]) for mm, de in shows)
    first, second = enamel["readings"]
    assert (first["lot"], first["off_first_de00"], second["lot"]) == ("SE1877", None, "SE2093")
    assert 0.5 < second["off_first_de00"] < 3
    assert second["color"] == enamel["color"]
    assert second["who"] == "Ines Okafor-Lind"


def test_a_specimen_in_cielab_is_weighed_from_then_on_and_the_one_before_is_kept(call: Caller) -> None:
    item = Item.objects.get(name="Skarv bulk")
    status, told = call("put", f"stock/{item.pk}/optics", {"optics": LAB, "lot": "SK3321"})
    assert status == 200
    assert told["color"]["known_by"] == "lab"
    assert told["color"]["over_black"] == pytest.approx(LAB["over_black"], abs=0.2)
    # Less opaque a specimen over the same black and white: it hides less.
    status, sold_as = call("put", f"stock/{item.pk}/optics", {"optics": FAMILY})
    assert status == 200
    assert sold_as["color"]["unsure_de00"] > told["color"]["unsure_de00"]
    bulk = shade_of(call, "Skarv bulk")
    assert [one["lot"] for one in bulk["readings"]] == ["SK3321", ""]
    assert bulk["color"]["known_by"] == "family"
    item.refresh_from_db()
    assert item.properties["optics"] == FAMILY
    assert Specimen.objects.filter(item=item).count() == 2


@pytest.mark.parametrize(
    ("changes", "path"),
    [
        ({"over_white": [60.0, 0.0, 5.0]}, "optics"),
        ({"over_black": [120.0, 0.0, 5.0]}, "optics.over_black"),
        ({"thickness_mm": 9}, "optics.thickness_mm"),
        ({"over_black": [62.0, -1.5]}, "optics.over_black"),
        ({"over_white": [62.0001, -1.5, 5.0]}, "optics.thickness_mm"),
    ],
)
def test_what_no_specimen_reads_is_refused_by_its_path_and_nothing_is_kept(
    call: Caller, changes: dict[str, Any], path: str
) -> None:
    item = Item.objects.get(name="Skarv bulk")
    status, told = call("put", f"stock/{item.pk}/optics", {"optics": {**LAB, **changes}})
    assert status == 422
    (problem,) = told["problems"]
    assert problem["path"].removeprefix("body.").replace(".lab", "") == path
    item.refresh_from_db()
    assert "optics" not in item.properties
    assert not Specimen.objects.filter(item=item).exists()


def test_an_assistant_sees_them_and_tells_nothing_of_them(demo: object, assistant: Any) -> None:
    item = Item.objects.get(name="Skarv bulk")
    assert Caller(assistant)("get", "shades")[0] == 200
    status, told = Caller(assistant)("put", f"stock/{item.pk}/optics", {"optics": FAMILY})
    assert (status, told["code"]) == (403, "role")
