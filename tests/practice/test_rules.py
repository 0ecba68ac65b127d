"""The house's own rules: set with a reason, acting in every plan from their day on, taken back, in a file."""

import csv
import datetime as dt
import io
from pathlib import Path
from typing import Any

import pytest

from mallet.rulebook import load_rulebook
from mallet.rulebook.book import FILES
from practice.accounts.models import AuditEntry, Practice, User
from practice.accounts.owned import Refused
from practice.house.models import HouseRule
from practice.house.services import house_on
from practice.restorations.models import Restoration
from tests.practice.conftest import Caller

pytestmark = pytest.mark.django_db

SHARE = "light.scraped_share"


def change(rule: str, value: float | None, why: str = "our own trial", **more: Any) -> dict[str, Any]:
    return {"changes": [{"rule": rule, "value": value, "why": why, **more}]}


def rule_of(answer: dict[str, Any], rule_id: str) -> dict[str, Any]:
    found: dict[str, Any] = next(r for r in answer["rules"] if r["id"] == rule_id)
    return found


def light_seconds(call: Caller, molar: Restoration) -> float:
    case = call("get", f"restorations/{molar.pk}")[1]["case"]
    seconds: float = call("post", "preview", {"case": case})[1]["plan"]["totals"]["light_seconds"]
    return seconds


def test_every_rule_is_told_with_source_place_bounds_and_the_plans_that_cite_it(
    call: Caller, molar: Restoration
) -> None:
    status, told = call("get", "rules")
    assert status == 200
    assert {r["id"] for r in told["rules"]} == set(load_rulebook().rules)
    assert all(r["citation"] and r["used"] and r["sureness"] for r in told["rules"])
    assert molar.pk in [p["restoration_id"] for p in rule_of(told, SHARE)["plans"]]
    for dispute in told["disputes"]:
        assert len(dispute["sides"]) > 1
        assert dispute["default"]
        assert dispute["why"]


def test_a_house_value_acts_in_every_plan_says_so_and_is_taken_back_in_one_step(
    call: Caller, molar: Restoration, demo: Practice
) -> None:
    before = light_seconds(call, molar)
    status, told = call("post", "rules", change(SHARE, 0.4))
    assert status == 200
    rule = rule_of(told, SHARE)
    assert (rule["value"], rule["default_value"], rule["is_house"]) == (0.4, 0.5, True)
    (kept,) = rule["history"]
    assert (kept["value"], kept["why"], kept["who"]) == (0.4, "our own trial", "Ines Okafor-Lind")
    assert kept["from_day"] == demo.today().isoformat()
    assert light_seconds(call, molar) > before

    restoration = call("get", f"restorations/{molar.pk}")[1]
    assert restoration["case"]["practice_settings"] == {SHARE: 0.4}
    (flag,) = [m for m in restoration["missing"] if m["code"] == "house.changed"]
    assert "0.5 \u2192 0.4" in flag["text"]
    call("post", f"restorations/{molar.pk}/plans", {"case": restoration["case"]})
    saved = molar.plans.last()
    assert saved is not None
    assert saved.body.case["practice_settings"] == {SHARE: 0.4}
    newest = call("get", f"restorations/{molar.pk}")[1]["plans"][-1]
    title = "practice setting: Share of the scraped length that counts as depth of cure"
    assert newest["changes"] == [{"path": title, "title": title, "before": None, "after": 0.4}]
    used = [u for f in saved.body.plan["figures"] for u in f["rules"] if u["rule"] == SHARE]
    assert used
    assert all((u["value"], u["default_value"]) == (0.4, 0.5) for u in used)

    _, told = call("post", "rules", change(SHARE, None, why=""))
    assert not rule_of(told, SHARE)["is_house"]
    assert [row["value"] for row in rule_of(told, SHARE)["history"]] == [0.4, None]
    assert light_seconds(call, molar) == before
    assert "practice_settings" not in call("get", f"restorations/{molar.pk}")[1]["case"]
    assert AuditEntry.objects.filter(action="house.rule.set").count() == 2


def test_a_case_cannot_bring_rules_of_its_own(call: Caller, molar: Restoration) -> None:
    before = light_seconds(call, molar)
    case = {**call("get", f"restorations/{molar.pk}")[1]["case"], "practice_settings": {SHARE: 0.3}}
    made = call("post", "preview", {"case": case})[1]["plan"]
    assert made["totals"]["light_seconds"] == before


@pytest.mark.parametrize(
    ("body", "path", "allowed"),
    [
        (change(SHARE, 0.2), "changes[0].value", "0.3 to 0.8 x"),
        (change(SHARE, 0.4, why=" "), "changes[0].why", "a reason"),
        (change("light.nothing", 3.0), "changes[0].rule", "the id of a rule"),
        (change(SHARE, 0.4, from_day="2026-01-01"), "changes[0].from", "today or a later day"),
    ],
)
def test_a_bad_change_is_refused_at_its_field_and_nothing_is_kept(
    call: Caller, body: dict[str, Any], path: str, allowed: str
) -> None:
    kept = HouseRule.objects.count()
    body["changes"].append({"rule": "bond.scrub_s", "value": 25.0, "why": "sound in itself"})
    status, said = call("post", "rules", body)
    assert status == 422
    (problem,) = said["problems"]
    assert problem["path"] == path
    assert allowed in problem["allowed"]
    assert HouseRule.objects.count() == kept


def test_a_value_acts_from_its_day_and_the_last_word_of_a_day_counts(
    demo: Practice, dentist: User, call: Caller
) -> None:
    today = demo.today()
    later = today + dt.timedelta(days=7)
    call("post", "rules", change(SHARE, 0.45, from_day=later.isoformat()))
    assert SHARE not in house_on(demo, today)
    assert house_on(demo, later)[SHARE] == 0.45
    call("post", "rules", change(SHARE, 0.55))
    call("post", "rules", change(SHARE, 0.6))
    assert house_on(demo, later - dt.timedelta(days=1))[SHARE] == 0.6
    # Taken back on the day itself, before it comes.
    call("post", "rules", change(SHARE, None, from_day=later.isoformat()))
    assert SHARE not in house_on(demo, later)
    with pytest.raises(Refused, match="never changed"):
        HouseRule.objects.owned_by(demo).update(value=1.0)


def test_what_the_rulebook_no_longer_allows_does_not_act(demo: Practice, dentist: User) -> None:
    for rule, value in ((SHARE, 99.0), ("light.gone", 1.0), ("bond.scrub_s", 30.0)):
        HouseRule.objects.create(
            practice=demo, rule=rule, value=value, from_day=demo.today(), why="old", who=dentist
        )
    assert house_on(demo, demo.today())["bond.scrub_s"] == 30.0
    assert not {SHARE, "light.gone"} & set(house_on(demo, demo.today()))
    told = Caller(dentist)("get", "rules")[1]
    for rule, acts in ((SHARE, False), ("bond.scrub_s", True)):
        assert [row["acts"] for row in rule_of(told, rule)["history"]] == [acts]


def test_an_assistant_reads_the_rules_but_does_not_set_them(assistant: User) -> None:
    call = Caller(assistant)
    assert call("get", "rules")[0] == 200
    assert call("post", "rules", change(SHARE, 0.4))[0] == 403


def test_another_house_keeps_its_own_rules(call: Caller, demo: Practice) -> None:
    other = Practice.objects.create(name="Elsewhere")
    call("post", "rules", change(SHARE, 0.4))
    assert house_on(other, other.today()) == {}


def exported(call: Caller) -> list[dict[str, str]]:
    text = call.client.get("/api/rules-file").content.decode()
    return list(csv.DictReader(io.StringIO(text)))


def as_file(rows: list[dict[str, str]]) -> dict[str, str]:
    out = io.StringIO()
    table = csv.DictWriter(out, list(rows[0]))
    table.writeheader()
    table.writerows(rows)
    return {"text": out.getvalue()}


def test_a_file_of_rules_comes_back_as_it_went_out(call: Caller) -> None:
    call("post", "rules", change(SHARE, 0.4))
    rows = exported(call)
    assert {row["rule"] for row in rows} == set(load_rulebook().rules)
    row = next(r for r in rows if r["rule"] == SHARE)
    assert (row["value"], row["default"], row["why"]) == ("0.4", "0.5", "our own trial")
    assert call("post", "rules-file", as_file(rows)) == (200, {"changes": [], "problems": []})


def test_a_file_tells_what_it_would_change_and_names_its_bad_rows(call: Caller) -> None:
    call("post", "rules", change(SHARE, 0.4))
    text = "\n".join(
        [
            "rule,value,why",
            f"{SHARE},,",
            'bond.scrub_s,"25,5",trial of spring',
            "bond.rinse_s,200,long",
            "bond.air_s,ten,",
            "bond.dry_s,6,",
            "bond.nothing,6,why",
        ]
    )
    status, read = call("post", "rules-file", {"text": text})
    assert status == 200
    assert [(c["rule"], c["value"]) for c in read["changes"]] == [(SHARE, None), ("bond.scrub_s", 25.5)]
    assert [p["path"] for p in read["problems"]] == [
        "line 4, value", "line 5, value", "line 6, why", "line 7, rule",
    ]  # fmt: skip
    assert read["problems"][0]["allowed"] == "5 to 60 s"
    _, told = call("post", "rules", {"changes": read["changes"]})
    assert rule_of(told, "bond.scrub_s")["value"] == 25.5
    assert not rule_of(told, SHARE)["is_house"]
    assert call("post", "rules-file", {"text": "a,b\n1,2"})[0] == 422


def test_every_chapter_of_the_rulebook_has_a_name_in_the_interface() -> None:
    words = (Path(__file__).parents[2] / "web/src/rules/words.ts").read_text()
    assert [name for name in FILES if f"  {name}: " not in words] == []
