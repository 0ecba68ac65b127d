"""Long lists, a page at a time."""

from __future__ import annotations

from typing import Any, NamedTuple

from django.db import models

PAGE = 30


class Paged(NamedTuple):
    """The rows of a page, and which of how many it is; one past the end is the last."""

    rows: models.QuerySet[Any]
    count: int
    page: int
    pages: int


def paged(rows: models.QuerySet[Any], page: int) -> Paged:
    """Return a page of rows, the first where none such is."""
    count = rows.count()
    pages = max(-(-count // PAGE), 1)
    page = min(max(page, 1), pages)
    return Paged(rows[(page - 1) * PAGE : page * PAGE], count, page, pages)
