"""The rulebook: every row has a source, every source is used, bounds hold."""

import pytest

from mallet.rulebook import Rulebook
from mallet.rulebook.book import read_rule
from mallet.terms.errors import InputError, RulebookError

ROW = {"title": "t", "value": 1.0, "unit": "mm", "source": "s", "sureness": "A", "low": 0.0, "high": 2.0}


def test_every_source_is_used_and_every_use_resolves(book: Rulebook) -> None:
    used = {rule.source for rule in book.rules.values()} | {book.crowns["source"]}
    used |= {shape["source"] for shape in book.crowns["shapes"].values()}
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
    assert (used.value, used.default_value) == (3.0, 2.0)
    assert book.use("light.conversion_factor").default_value is None
    with pytest.raises(InputError, match=r'house\["light.conversion_factor"\]: got 99, allowed 1 to 10'):
        book.with_house({"light.conversion_factor": 99.0})
    with pytest.raises(InputError, match="unknown rule"):
        book.with_house({"light.nothing": 1.0})
