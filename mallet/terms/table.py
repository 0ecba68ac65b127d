"""Tables from CSV: rows of numbers, and what is wrong with each bad one."""

from __future__ import annotations

import csv
import io
import math
from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass

from mallet.terms.errors import InputError, Problem


@dataclass(frozen=True)
class Row:
    """A row whose numbers are good: its line in the file, numbers, and other columns as text."""

    line: int
    numbers: Mapping[str, float]
    texts: Mapping[str, str]

    def problem(self, column: str, allowed: str) -> Problem:
        return Problem(f"line {self.line}, {column}", repr(self.texts[column]), allowed)


def read_rows(
    text: str, needed: Collection[str], others: str
) -> tuple[list[str], list[tuple[int, dict[str, str]]]]:
    """Return the columns of a CSV text and its rows as trimmed text, each with its line.

    Raises InputError where a needed column is missing; `others` says which more there may be.
    """
    table = csv.DictReader(io.StringIO(text.lstrip("\ufeff")))
    columns = [name.strip() for name in table.fieldnames or []]
    table.fieldnames = columns
    if any(name not in columns for name in needed):
        got = ", ".join(columns) or "an empty file"
        raise InputError.at("line 1", got, f"the columns {', '.join(needed)}{others}")
    return columns, [
        (table.line_num, {name: (cells.get(name) or "").strip() for name in columns}) for cells in table
    ]


def read_table(
    text: str, numbers: Mapping[str, tuple[float, float]], others: Sequence[str] = ()
) -> tuple[list[Row], list[Problem]]:
    """Return the good rows of a CSV text and one problem for each bad number, by line and column.

    `numbers` are the columns that must be there, with the least and the largest value allowed;
    `others` may be there. Raises InputError where a needed column is missing.
    """
    optional = f", optional {', '.join(others)}" if others else ""
    _, table = read_rows(text, list(numbers), optional)
    rows, problems = [], []
    for line, cells in table:
        found = {name: _number(cells[name]) for name in numbers}
        wrong = [
            Problem(f"line {line}, {name}", repr(cells[name]), f"a number from {least:g} to {most:g}")
            for name, (least, most) in numbers.items()
            if not least <= found[name] <= most
        ]
        problems += wrong
        if not wrong:
            rows.append(Row(line, found, {name: cells.get(name, "") for name in others}))
    return rows, problems


def _number(text: str) -> float:
    """Return what a text says; what is no number compares with none."""
    try:
        return float(text)
    except ValueError:
        return math.nan
