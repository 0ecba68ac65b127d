"""Tables from CSV: rows of numbers, and what is wrong with each bad one."""

from __future__ import annotations

import csv
import io
import math
from collections.abc import Mapping, Sequence
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


def read_table(
    text: str, numbers: Mapping[str, tuple[float, float]], others: Sequence[str] = ()
) -> tuple[list[Row], list[Problem]]:
    """Return the good rows of a CSV text and one problem for each bad number, by line and column.

    `numbers` are the columns that must be there, with the least and the largest value allowed;
    `others` may be there. Raises InputError where a needed column is missing.
    """
    table = csv.DictReader(io.StringIO(text))
    columns = [name.strip() for name in table.fieldnames or []]
    table.fieldnames = columns
    if any(name not in columns for name in numbers):
        optional = f", optional {', '.join(others)}" if others else ""
        got = ", ".join(columns) or "an empty file"
        raise InputError.at("line 1", got, f"the columns {', '.join(numbers)}{optional}")
    rows, problems = [], []
    for cells in table:
        line = table.line_num
        found = {name: _number(cells.get(name)) for name in numbers}
        wrong = [
            Problem(f"line {line}, {name}", repr(cells.get(name)), f"a number from {least:g} to {most:g}")
            for name, (least, most) in numbers.items()
            if not least <= found[name] <= most
        ]
        problems += wrong
        if not wrong:
            rows.append(Row(line, found, {name: (cells.get(name) or "").strip() for name in others}))
    return rows, problems


def _number(text: str | None) -> float:
    """Return what a text says; what is no number compares with none."""
    try:
        return float((text or "").strip())
    except ValueError:
        return math.nan
