"""The house's own rules: which hold on a day, setting them, and a file of them."""

from __future__ import annotations

import csv
import datetime as dt
import io
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from django.db import transaction

from mallet.rulebook import Rulebook, load_rulebook
from mallet.terms.errors import InputError, Problem
from mallet.terms.table import read_rows
from practice.accounts.models import Practice, User, audit
from practice.house.models import HouseRule
from practice.once import once

FILE_COLUMNS = ("rule", "value", "from", "why", "title", "unit", "default", "low", "high", "citation")
LEAST_WHY = 3


@dataclass(frozen=True)
class Wanted:
    """A value that a rule is to have from a day on (today where none is given); None for the default."""

    rule: str
    value: float | None
    why: str
    from_day: dt.date | None = None


@once
def house_on(practice: Practice, day: dt.date) -> dict[str, float]:
    """Return the house's values that hold on a day. One that the rulebook of today no longer knows, or
    bounds otherwise, does not act."""
    book, held = load_rulebook(), {}
    for row in HouseRule.objects.owned_by(practice).filter(from_day__lte=day):
        held[row.rule] = row.value
    return {
        rule: value
        for rule, value in sorted(held.items())
        if value is not None and not book.refused(rule, value, "value")
    }


@once
def rules_of(practice: Practice) -> Rulebook:
    """Return the rulebook as it holds in a house today."""
    return load_rulebook().with_house(house_on(practice, practice.today()))


def with_house(case: Mapping[str, Any], practice: Practice) -> dict[str, Any]:
    """Return a case with the rules of the house that holds it, whatever it says itself."""
    house = house_on(practice, practice.today())
    own = {key: value for key, value in case.items() if key != "practice_settings"}
    return {**own, "practice_settings": house} if house else own


def set_rules(practice: Practice, wanted: Sequence[Wanted], who: User) -> None:
    """Keep values, all or none of them.

    Raises InputError, by `changes[i].field`, for a value outside its rule's bounds, a day gone by, or a
    value other than the default without a reason.
    """
    today = practice.today()
    problems = [
        problem for i, one in enumerate(wanted) for problem in problems_of(one, today, f"changes[{i}].")
    ]
    if problems:
        raise InputError(*problems)
    with transaction.atomic():
        for one in wanted:
            day = one.from_day or today
            HouseRule.objects.create(
                practice=practice, rule=one.rule, value=one.value, from_day=day, why=one.why.strip(), who=who
            )
            audit(who, "house.rule.set", f"rule {one.rule}", value=one.value, from_day=day.isoformat())


def problems_of(one: Wanted, today: dt.date, path: str) -> list[Problem]:
    """Return what is wrong with a wanted value, each at its field behind a path."""
    book = load_rulebook()
    if one.rule not in book.rules:
        return [Problem(f"{path}rule", repr(one.rule), "the id of a rule")]
    found = []
    if one.value is not None:
        refused = book.refused(one.rule, one.value, f"{path}value")
        found += [refused] if refused else []
        if len(one.why.strip()) < LEAST_WHY:
            found.append(Problem(f"{path}why", repr(one.why), "a reason in a few words"))
    if one.from_day and one.from_day < today:
        found.append(Problem(f"{path}from", one.from_day.isoformat(), "today or a later day"))
    return found


def rules_file(practice: Practice) -> str:
    """Return every rule as CSV, with the value that holds in the house today and why."""
    book, today = rules_of(practice), practice.today()
    rows = HouseRule.objects.owned_by(practice).filter(from_day__lte=today)
    newest = {row.rule: row for row in rows}
    out = io.StringIO()
    table = csv.writer(out, lineterminator="\n")
    table.writerow(FILE_COLUMNS)
    for rule in book.rules.values():
        row = newest.get(rule.id) if rule.id in book.house else None
        since, why = (row.from_day.isoformat(), row.why) if row else ("", "")
        value, cited = f"{book.value(rule.id):g}", book.sources[rule.source]
        said = (f"{number:g}" for number in (rule.value, rule.low, rule.high))
        table.writerow([rule.id, value, since, why, rule.title, rule.unit, *said, cited])
    return out.getvalue()


def read_rules_file(practice: Practice, text: str) -> tuple[list[Wanted], list[Problem]]:
    """Return what a file of rules would change in a house, and what is wrong with its other rows, by line
    and column. A row that says what holds already changes nothing; an empty value is the default.

    Raises InputError where the columns `rule` and `value` are missing.
    """
    _, rows = read_rows(text, ("rule", "value"), ", and if you like from and why")
    book, today = rules_of(practice), practice.today()
    wanted, problems = [], []
    for line, cells in rows:
        one, wrong = _wanted(cells, book, today, f"line {line}, ")
        problems += wrong
        if one and not wrong and _changes(one, book):
            wanted.append(one)
    return wanted, problems


def _wanted(
    cells: Mapping[str, str], book: Rulebook, today: dt.date, path: str
) -> tuple[Wanted | None, list[Problem]]:
    """Return what one row asks for, or what is wrong with it. A day gone by means today: it is where the
    value in an exported file comes from."""
    value: float | None = None
    day: dt.date | None = None
    if cells["value"]:
        try:
            value = float(cells["value"].replace(",", "."))
        except ValueError:
            return None, [
                Problem(f"{path}value", repr(cells["value"]), "a number, or nothing for the default")
            ]
    if since := cells.get("from"):
        try:
            day = dt.date.fromisoformat(since)
        except ValueError:
            return None, [Problem(f"{path}from", repr(since), "a day as 2027-01-31, or nothing")]
        day = day if day > today else None
    rule = book.rules.get(cells["rule"])
    if rule and value == rule.value:
        value = None
    one = Wanted(cells["rule"], value, cells.get("why", ""), day)
    if rule and not _changes(one, book):
        return one, []
    return one, problems_of(one, today, path)


def _changes(one: Wanted, book: Rulebook) -> bool:
    """Return whether a wanted value differs from what holds today."""
    return one.value != book.house.get(one.rule)
