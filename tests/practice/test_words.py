"""The field's words in what the interface's builders read: the API's paths, summaries and descriptions."""

import re
from collections.abc import Iterator
from typing import Any

from practice.api import api
from tests.core.words import old_words


def test_the_api_says_no_old_word() -> None:
    schema = api.get_openapi_schema()
    found = [f"{at}: {text}" for at, text in _texts(schema) if list(old_words(text))]
    assert found == []


def _texts(schema: Any, at: str = "") -> Iterator[tuple[str, str]]:
    """Yield each text with its place; keys of what is sent are names of data, and stay as older files have them."""
    for path in schema.get("paths", {}) if not at else []:
        yield path, re.sub(r"[/_{}-]", " ", path)
    for key, value in schema.items() if isinstance(schema, dict) else enumerate(schema):
        if key in ("description", "summary") and isinstance(value, str):
            yield at, value
        elif isinstance(value, dict | list):
            yield from _texts(value, f"{at}/{key}")
