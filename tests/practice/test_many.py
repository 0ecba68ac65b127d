"""Lists of a practice of many years: in as many queries however much there is, a page at a time."""

from typing import Any

import pytest
from django.db import connection
from django.test.utils import CaptureQueriesContext

from practice.accounts.many import A_DAY, OPEN_DAYS, fill_many
from practice.accounts.models import Practice
from practice.records.models import Record
from practice.records.services import broken_seals
from practice.restorations.models import Patient, PlanBody, Restoration
from tests.practice.conftest import Caller

# Today's and one day's that is over.
FEW = (OPEN_DAYS + 2) * A_DAY


@pytest.fixture
def many(demo: Practice) -> Practice:
    return fill_many(12, FEW, kinds=1)


def queries(call: Caller, path: str) -> tuple[int, Any]:
    """Return in how many queries a page comes, once what is looked up but once is known, and the page."""
    call("get", path)
    with CaptureQueriesContext(connection) as captured:
        status, told = call("get", path)
    assert status == 200
    return len(captured), told


def test_every_list_takes_as_many_queries_with_few_and_with_many(call: Caller, many: Practice) -> None:
    patient = Patient.objects.filter(chart_number__startswith="M").earliest("pk")
    day = many.today().isoformat()
    pages = [
        f"today?day={day}",
        f"patients/{patient.pk}",
        "patients",
        "patients?q=aune",
        "records",
        "records?q=aune",
        "records?unsigned=true",
    ]
    few = {page: queries(call, page)[0] for page in pages}
    more = fill_many(40, 2 * FEW, kinds=1)
    assert Restoration.objects.filter(practice=more).count() > 3 * FEW
    assert {page: queries(call, page)[0] for page in pages} == few
    assert max(few.values()) <= 35, few


def test_a_day_has_all_its_visits_and_lists_come_a_page_at_a_time(call: Caller, many: Practice) -> None:
    day = call("get", f"today?day={many.today()}")[1]
    assert len(day["booked"]) >= A_DAY
    assert len(day["visits"]) >= A_DAY
    first, second = (call("get", f"records?page={page}")[1] for page in (1, 2))
    assert (len(first["rows"]), first["count"]) == (30, Record.objects.filter(practice=many).count())
    assert not {row["id"] for row in first["rows"]} & {row["id"] for row in second["rows"]}
    last = call("get", "records?page=99")[1]
    assert last["page"] == last["pages"] > 1
    assert call("get", "records?unsigned=true")[1]["count"] == 0
    name = Patient.objects.filter(chart_number__startswith="M").earliest("pk").full_name
    found = call("get", f"records?q={' '.join(reversed(name.split()))}")[1]
    assert found["rows"]
    assert {row["patient"] for row in found["rows"]} == {name}


def test_what_is_kept_packed_is_told_as_it_was_and_sealed(call: Caller, many: Practice) -> None:
    assert list(broken_seals(many)) == []
    body = PlanBody.objects.filter(practice=many).latest("pk")
    with connection.cursor() as cursor:
        cursor.execute(
            "select typeof(plan), length(plan) from restorations_planbody where id = %s", [body.pk]
        )
        kind, size = cursor.fetchone()
    assert kind == "blob"
    assert size < 50_000
    assert body.version.later == body.planned.get("later", [])
    assert body.version.wants == body.plan["wants"]
