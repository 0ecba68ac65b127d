"""Patients as a CSV file: out, and in again, all of them or none."""

from __future__ import annotations

import csv
import datetime as dt
import io
from collections.abc import Iterator, Mapping
from typing import Any

from django.db import transaction

from mallet.terms.errors import InputError, Problem
from mallet.terms.table import read_rows
from practice.accounts.models import Practice, User, audit
from practice.restorations.models import FLAGS, Patient, searched_as
from practice.restorations.patients import problems_of

NEEDED = ("full_name", "born_on")
COLUMNS = (*NEEDED, "chart_number", "weight_kg", "allergies", *FLAGS, "alert_text")
# What a byte that is none of this encoding is read as.
UNREADABLE = "\ufffd"
DELIMITERS = {";": "semicolons", "\t": "tabs"}
MOST_ROWS = 50_000


def patient_file(practice: Practice) -> str:
    """Return the patients of a practice who are not archived."""
    text = io.StringIO()
    writer = csv.DictWriter(text, COLUMNS)
    writer.writeheader()
    rows = Patient.objects.owned_by(practice).filter(archived_at=None)
    for one in rows.iterator(chunk_size=2000):
        writer.writerow(
            {
                "full_name": one.full_name,
                "born_on": one.born_on.isoformat(),
                "chart_number": one.chart_number,
                "weight_kg": "" if one.weight_kg is None else f"{one.weight_kg:g}",
                "allergies": "; ".join(
                    f"{allergy['to']}: {allergy['substance']}" if allergy.get("substance") else allergy["to"]
                    for allergy in one.allergies
                ),
                "alert_text": one.alert_text,
                **{flag: "yes" if getattr(one, flag) else "" for flag in FLAGS},
            }
        )
    return text.getvalue()


def read_patient_file(practice: Practice, text: str) -> tuple[list[dict[str, Any]], list[Problem]]:
    """Return the good rows of a file, and what is wrong with the others, by line and column; nothing is kept.

    Raises InputError for a file of another encoding or delimiter, and for columns that lack or are not known.
    """
    text = text.removeprefix("\ufeff")
    if UNREADABLE in text:
        raise InputError.at("file", "another encoding", "UTF-8: save it so, and read it again")
    head = text.partition("\n")[0]
    if "," not in head and (found := next((said for sign, said in DELIMITERS.items() if sign in head), None)):
        raise InputError.at("file", f"{found} between the columns", "commas")
    columns, table = read_rows(text, NEEDED, " and what else is known")
    if unknown := [name for name in columns if name not in COLUMNS]:
        raise InputError.at("line 1", ", ".join(unknown), f"columns among {', '.join(COLUMNS)}")
    if len(table) > MOST_ROWS:
        raise InputError.at("file", f"{len(table)} rows", f"up to {MOST_ROWS}: part it")
    known = _Known(practice)
    good: list[dict[str, Any]] = []
    problems: list[Problem] = []
    for line, cells in table:
        told, wrong = _told(cells)
        wrong += problems_of(practice, told) if not wrong else []
        wrong += known.problems_of(told) if not wrong else []
        problems += [Problem(f"line {line}, {p.path}", p.got, p.allowed) for p in wrong]
        if not wrong:
            good.append(told)
    return good, problems


def keep_patients(practice: Practice, text: str, by: User) -> int:
    """Return how many patients of a file were added: all of them.

    Raises InputError with what is wrong, and adds nobody, where anything is.
    """
    rows, problems = read_patient_file(practice, text)
    if problems:
        raise InputError(*problems)
    with transaction.atomic():
        made = [Patient(practice=practice, searched=searched_as(row["full_name"]), **row) for row in rows]
        Patient.objects.bulk_create(made, batch_size=1000)
        audit(by, "patients.added", f"{len(made)} patients", source="file")
    return len(made)


class _Known:
    """Who is in the practice, and in the lines before."""

    def __init__(self, practice: Practice) -> None:
        rows = Patient.objects.owned_by(practice).values_list("chart_number", "searched", "born_on")
        self._numbers, self._people = set[str](), set[tuple[str, dt.date]]()
        for number, searched, born in rows.iterator():
            self._numbers.add(number)
            self._people.add((searched, born))

    def problems_of(self, told: Mapping[str, Any]) -> list[Problem]:
        """Return what is here already of a row, and note the row down."""
        number, person = told["chart_number"], (searched_as(told["full_name"]), told["born_on"])
        found = []
        if number and number in self._numbers:
            found.append(Problem("chart_number", repr(number), "one that is not here, nor in a line before"))
        if person in self._people:
            found.append(
                Problem(
                    "full_name",
                    repr(told["full_name"]),
                    "somebody who is not here already with that birth date",
                )
            )
        self._numbers.add(number)
        self._people.add(person)
        return found


def _told(cells: Mapping[str, str]) -> tuple[dict[str, Any], list[Problem]]:
    """Return a row as it is meant, and what cannot be read of it."""
    told: dict[str, Any] = {
        name: cells.get(name, "").strip() for name in ("full_name", "chart_number", "alert_text")
    }
    problems = list(_read(cells, told))
    return told, problems


def _read(cells: Mapping[str, str], told: dict[str, Any]) -> Iterator[Problem]:
    """Put the cells that are no text into a row; yield what cannot be read."""
    born, weight = cells.get("born_on", "").strip(), cells.get("weight_kg", "").strip()
    try:
        told["born_on"] = dt.date.fromisoformat(born)
    except ValueError:
        yield Problem("born_on", repr(born), "a day as 1984-02-29")
    told["weight_kg"] = None
    if weight:
        try:
            told["weight_kg"] = float(weight)
        except ValueError:
            yield Problem("weight_kg", repr(weight), "a number of kg as 61.5")
    # As `latex; other: penicillin`.
    named = [one.partition(":") for one in cells.get("allergies", "").split(";") if one.strip()]
    told["allergies"] = [{"to": to.strip().lower(), "substance": said.strip()} for to, _, said in named]
    for flag in FLAGS:
        said = cells.get(flag, "").strip().lower()
        if said not in ("", "yes", "no"):
            yield Problem(flag, repr(said), "yes, no or nothing")
        told[flag] = said == "yes"
