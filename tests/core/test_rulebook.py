"""The rulebook: every row has a source, every source is used, bounds hold."""

from typing import Any

import pytest

from mallet.rulebook import Rulebook, where_used
from mallet.rulebook.book import read_dispute, read_rule
from mallet.rulebook.steps import catalog_step, steps_catalog
from mallet.terms.case import get_path, read_case
from mallet.terms.errors import InputError, RulebookError
from mallet.terms.plan import StepCheck
from tests.core.conftest import first_case

ROW = {
    "title": "t", "value": 1.0, "unit": "mm", "source": "s", "sureness": "A",
    "low": 0.0, "high": 2.0,
}  # fmt: skip
DISPUTE = {
    "title": "t", "stage": "Bond", "default": "d", "why": "w", "rules": ["x.y"],
    "sides": [{"says": "this", "source": "s", "sureness": "A"}, {"says": "that", "source": "s", "sureness": "T"}],
}  # fmt: skip


def test_every_source_is_used_and_every_use_resolves(book: Rulebook) -> None:
    used = {rule.source for rule in book.rules.values()} | {book.crowns["source"]}
    used |= {shape["source"] for shape in book.crowns["shapes"].values()}
    used |= {side.source for dispute in book.disputes for side in dispute.sides}
    assert used == set(book.sources)


@pytest.mark.parametrize("field", sorted(ROW))
def test_a_row_that_lacks_a_field_is_refused(field: str) -> None:
    row = {key: value for key, value in ROW.items() if key != field}
    with pytest.raises(RulebookError, match=field):
        read_rule("x.y", row, {"s": "a source"})


@pytest.mark.parametrize("change", [{"source": "nobody"}, {"sureness": "Z"}, {"value": 3.0}, {"colour": 1}])
def test_a_row_with_a_wrong_field_is_refused(change: dict[str, object]) -> None:
    with pytest.raises(RulebookError):
        read_rule("x.y", {**ROW, **change}, {"s": "a source"})


def test_a_house_override_shows_its_default_and_stays_in_bounds(book: Rulebook) -> None:
    house = book.with_house({"light.conversion_factor": 3.0})
    used = house.use("light.conversion_factor")
    assert (used.value, used.default_value) == (3.0, 5.0)
    assert book.use("light.conversion_factor").default_value is None
    refused = r'practice_settings\["light.conversion_factor"\]: got 99, allowed 1 to 20 x'
    with pytest.raises(InputError, match=refused):
        book.with_house({"light.conversion_factor": 99.0})
    with pytest.raises(InputError, match="unknown rule"):
        book.with_house({"light.nothing": 1.0})


def test_every_rule_acts_somewhere_and_says_where(book: Rulebook) -> None:
    used = where_used()
    assert set(used) == set(book.rules)
    assert [rule_id for rule_id, places in used.items() if not places] == []
    assert used["bond.scrub_s"] == ("Adhesion",)
    assert "Placement" in used["composite.wall_thickness_mm"]


@pytest.mark.parametrize(
    ("change", "said"),
    [
        ({"sides": DISPUTE["sides"][:1]}, "one side only"),
        ({"rules": ["x.z"]}, "unknown rules x.z"),
        ({"why": None}, "lacks why"),
        ({"sides": [{"says": "this", "source": "nobody", "sureness": "A"}] * 2}, "unknown source"),
    ],
)
def test_a_dispute_that_is_incomplete_is_refused(change: dict[str, Any], said: str) -> None:
    rules = {"x.y": read_rule("x.y", ROW, {"s": "a source"})}
    read_dispute("z", DISPUTE, rules, {"s": "a source"})
    row = {key: value for key, value in {**DISPUTE, **change}.items() if value is not None}
    with pytest.raises(RulebookError, match=said):
        read_dispute("z", row, rules, {"s": "a source"})


def test_what_a_dispute_turns_on_is_a_field_of_the_case(book: Rulebook) -> None:
    case = read_case(first_case())
    for dispute in book.disputes:
        for path in dispute.choices:
            get_path(case, path)


def test_a_step_tells_what_the_case_tells(book: Rulebook) -> None:
    told = {"side": "mesial", "wedge_mm": 1.6, "next_mm": 1.9, "ring_forceps": True, "the_ring": True}
    wedge = catalog_step("matrix.wedge", book, {**told, "ring": True}, after=["matrix.mesial.band"])
    assert (wedge.id, wedge.stage, wedge.seconds) == (
        "matrix.mesial.wedge",
        "matrix",
        book.value("chair.wedge_s"),
    )
    assert wedge.detail.startswith("Wedge 1.6 mm. Hold the band while wedging. Then the ring")
    assert wedge.tray == ["wedge 1.6 mm", "ring forceps", "ring"]
    assert wedge.check == StepCheck(
        question="Did the wedge meet resistance?", remedy="Take the next size, 1.9 mm.", back_to=wedge.id
    )
    bare = catalog_step(
        "matrix.wedge", book, {**told, "ring": False, "ring_forceps": None, "the_ring": False}
    )
    assert bare.detail == "Wedge 1.6 mm. Hold the band while wedging."
    assert bare.tray == ["wedge 1.6 mm"]
    with pytest.raises(RulebookError, match=r"step matrix\.wedge lacks ring"):
        catalog_step("matrix.wedge", book, told)
    with pytest.raises(RulebookError, match=r"no step 'matrix\.nail'"):
        catalog_step("matrix.nail", book)


def test_every_step_of_the_catalogue_takes_a_known_time(book: Rulebook) -> None:
    rules = {name: row.rule for name, row in steps_catalog().items() if row.rule}
    assert {name: rule for name, rule in rules.items() if rule not in book.rules} == {}
