"""Stock: items with lots, what of it plans get and miss, a file, packages that are scanned."""

import csv
import datetime as dt
import io
from typing import Any

import pytest

from mallet.terms.errors import InputError
from practice.accounts.models import Practice, User
from practice.devices.barcode import Package, SimulatedBarcodeReader, read_package
from practice.equipment.models import Item, Lot
from practice.equipment.stock import planned_stock
from practice.records.models import Record
from practice.restorations.models import Restoration
from tests.practice.conftest import Caller, event, play_to_end

pytestmark = pytest.mark.django_db

# Of the range that is kept for examples.
GTIN = "09520041701014"
BAND = {
    "kind": "band", "name": "Tern sectional 5.4", "manufacturer": "Tern & Auk",
    "properties": {"form": "sectional", "height_mm": 5.4, "thickness_mm": 0.03},
}  # fmt: skip


def thing(call: Caller, name: str) -> dict[str, Any]:
    found: dict[str, Any] = next(i for i in call("get", "stock")[1]["items"] if i["name"] == name)
    return found


def missing(call: Caller, molar: Restoration) -> dict[str, str]:
    return {m["code"]: m["text"] for m in call("get", f"restorations/{molar.pk}")[1]["missing"]}


def band_of(call: Caller, molar: Restoration) -> str | None:
    case = call("get", f"restorations/{molar.pk}")[1]["case"]
    wants = call("post", "preview", {"case": case})[1]["plan"]["wants"]
    name: str | None = next(w["name"] for w in wants if w["kind"] == "band")
    return name


def test_stock_tells_kinds_properties_lots_and_what_to_see_to(call: Caller) -> None:
    status, stock = call("get", "stock")
    assert status == 200
    assert {item["kind"] for item in stock["items"]} == {kind["kind"] for kind in stock["kinds"]}
    assert {f["code"] for f in thing(call, "Holm ionomer")["flags"]} == {"shelf.over"}
    assert {f["code"] for f in thing(call, "Holm hydroxide")["flags"]} == {"shelf.soon"}
    assert thing(call, "Auk ring")["flags"] == []


def test_what_comes_into_stock_is_planned_with_and_what_expires_is_not(
    call: Caller, molar: Restoration, demo: Practice
) -> None:
    assert band_of(call, molar) == "Tern sectional 5.5"
    last = (demo.today() + dt.timedelta(days=90)).isoformat()
    status, _ = call("post", "stock", {"rows": [{**BAND, "lot": "X1", "expires_on": last, "count": 2}]})
    assert status == 200
    assert band_of(call, molar) == "Tern sectional 5.4"
    case = call("get", f"restorations/{molar.pk}")[1]["case"]
    call("post", f"restorations/{molar.pk}/plans", {"case": case})
    saved = molar.plans.last()
    assert saved is not None
    want = next(w for w in saved.body.plan["wants"] if w["kind"] == "band")
    assert (want["name"], want["lot"]) == ("Tern sectional 5.4", "X1")

    Lot.objects.filter(number="X1").update(expires_on=demo.today() - dt.timedelta(days=1))
    assert "Tern sectional 5.4 lot X1 expired" in missing(call, molar)["shelf.over"]
    assert band_of(call, molar) == "Tern sectional 5.5"
    Lot.objects.filter(number="X1").update(count=0)
    assert missing(call, molar)["shelf.none"] == "Tern sectional 5.4: none left"


def test_a_want_that_nothing_in_stock_meets_is_told(call: Caller, molar: Restoration) -> None:
    Lot.objects.filter(item__kind="wedge").update(count=0)
    assert missing(call, molar)["shelf.none"].startswith("Tern wedge")
    case = call("get", f"restorations/{molar.pk}")[1]["case"]
    call("post", f"restorations/{molar.pk}/plans", {"case": case})
    assert missing(call, molar)["shelf.missing"].startswith("Not in stock: wedge, ")


@pytest.mark.parametrize(
    ("change", "path", "allowed"),
    [
        ({"kind": "spoon"}, "rows[0].kind", "one of mass, adhesive"),
        ({"properties": {**BAND["properties"], "height_mm": 40}}, "rows[0].height_mm", "15 or less"),  # type: ignore[dict-item]
        ({"gtin": "09520041701015"}, "rows[0].gtin", "check digit that fits"),
        ({"lot": "X1"}, "rows[0].count", "how many packages"),
    ],
)
def test_a_bad_row_is_named_and_nothing_is_kept(
    call: Caller, change: dict[str, Any], path: str, allowed: str
) -> None:
    before = Item.objects.count()
    good = {**BAND, "name": "sound in itself"}
    status, said = call("post", "stock", {"rows": [{**BAND, **change}, good]})
    assert status == 422
    (problem,) = said["problems"]
    assert problem["path"] == path
    assert allowed in problem["allowed"]
    assert Item.objects.count() == before


def test_a_number_names_one_thing(call: Caller) -> None:
    status, said = call("post", "stock", {"rows": [{**BAND, "gtin": GTIN}]})
    assert status == 422
    (problem,) = said["problems"]
    assert (problem["path"], "Skarv body" in problem["allowed"]) == ("rows[0].gtin", True)


def test_stock_goes_out_and_comes_back_the_same(call: Caller) -> None:
    text = call.client.get("/api/stock-file").content.decode()
    before = call("get", "stock")[1]["items"]
    status, read = call("post", "stock-file", {"text": text})
    assert (status, read["problems"]) == (200, [])
    assert call("post", "stock", {"rows": read["rows"]})[1]["items"] == before


def test_a_file_names_its_bad_rows_and_keeps_the_good_ones(call: Caller) -> None:
    out = io.StringIO()
    table = csv.writer(out)
    table.writerow(["kind", "name", "lot", "expires_on", "count", "width_mm", "height_mm", "force_n"])
    table.writerow(["wedge", "good", "W1", "2029-01-31", "5", "1,3", "1.1", ""])
    table.writerow(["wedge", "too wide", "W2", "", "5", "9", "1", ""])
    table.writerow(["wedge", "strong", "W3", "", "5", "1", "1", "8"])
    table.writerow(["spoon", "x", "", "", "", "", "", ""])
    table.writerow(["wedge", "late", "W4", "31.1.2029", "many", "1", "1", ""])
    status, read = call("post", "stock-file", {"text": out.getvalue()})
    assert status == 200
    assert [(r["name"], r["properties"]) for r in read["rows"]] == [
        ("good", {"width_mm": 1.3, "height_mm": 1.1}),
        ("strong", {"width_mm": 1.0, "height_mm": 1.0, "force_n": 8.0}),
    ]
    assert [p["path"] for p in read["problems"]] == [
        "line 3, width_mm", "line 5, kind", "line 6, expires_on", "line 6, count",
    ]  # fmt: skip
    assert call("post", "stock-file", {"text": "kind,name,colour\nwedge,x,red"})[0] == 422


def test_a_code_says_what_the_package_is() -> None:
    """AI 01, 17 and 10 of the GS1 General Specifications; the number lies in its range for examples."""
    read = read_package("]d2" + "01" + GTIN + "10SB4417\x1d17291231")
    assert read == Package(GTIN, "SB4417", dt.date(2029, 12, 31))
    assert read_package(read.text) == read
    assert read_package("9520041701014") == Package(GTIN)
    smudged = SimulatedBarcodeReader(read, is_smudged=True).read()
    for text in (smudged, "hello", "10SB4417", "x" * 300):
        with pytest.raises(InputError, match="text: got"):
            read_package(text)


def test_a_reader_finds_the_thing_and_its_lot(call: Caller) -> None:
    body = thing(call, "Skarv body")
    status, code = call("post", "packages/simulated", {"lot_id": body["lots"][0]["id"]})
    assert status == 200
    found = call("post", "packages", {"text": code["text"]})[1]
    assert (found["item_name"], found["lot"], found["is_over"]) == ("Skarv body", "SB4417", False)
    assert found["lot_id"] == body["lots"][0]["id"]
    assert call("post", "packages", {"text": "hello"})[0] == 422


def test_a_scanned_lot_is_in_the_record_and_one_that_is_over_a_deviation(
    call: Caller, molar: Restoration, demo: Practice
) -> None:
    run = call("post", f"restorations/{molar.pk}/runs")[1]["id"]
    state = call("get", f"runs/{run}")[1]["state"]
    other = Package(GTIN, "SB9001", demo.today() + dt.timedelta(days=99)).text
    over = Package(thing(call, "Skarv enamel")["gtin"], "SE1", demo.today() - dt.timedelta(days=1)).text
    for text in (other, over, "a torn label"):
        status, state = call("post", f"runs/{run}/events", event(state, "lot_scanned", detail={"text": text}))
        assert status == 200
    assert [(lot["name"], lot["lot"], lot["is_over"]) for lot in state["lots"]] == [
        ("Skarv body", "SB9001", False), ("Skarv enamel", "SE1", True), (None, "", False),
    ]  # fmt: skip
    assert state["index"] == 0
    play_to_end(call, run)
    record = call("get", f"records/{Record.objects.get(run=run).pk}")[1]
    assert [lot["text"] for lot in record["lots"]] == [other, over, "a torn label"]
    assert {m["lot"] for m in record["placed"] if m["product"] == "Skarv body"} == {"SB9001"}
    (told,) = [d for d in record["deviations"] if d["kind"] == "lot_over"]
    assert "Skarv enamel lot SE1" in told["text"]
    assert call.client.get(f"/api/records/{record['id']}/pdf").status_code == 200


def test_another_practice_has_its_own_stock(call: Caller, demo: Practice, assistant: User) -> None:
    other = Practice.objects.create(name="Elsewhere")
    assert planned_stock(other, other.today()) == []
    stranger = User.objects.create_user(
        username="s", password="x", full_name="S", role="dentist", practice=other
    )
    assert call("get", "stock")[1]["items"]
    elsewhere = Caller(stranger)
    assert elsewhere("get", "stock")[1]["items"] == []
    assert elsewhere("post", "packages/simulated", {"lot_id": Lot.objects.all()[0].pk})[0] == 409
    assert elsewhere("post", "packages", {"text": GTIN})[1]["item_id"] is None
    assert Caller(assistant)("post", "stock", {"rows": [BAND]})[0] == 200
