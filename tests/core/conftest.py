"""Cases that the core's tests start from."""

import copy
import json
from pathlib import Path
from typing import Any

import pytest

from mallet.rulebook import Rulebook, load_rulebook

EXAMPLE = Path(__file__).parents[2] / "examples" / "lower_first_molar_mo.json"


def first_case() -> dict[str, Any]:
    return json.loads(EXAMPLE.read_text())


def with_values(case: dict[str, Any], **values: Any) -> dict[str, Any]:
    """Return a copy of a case with values set by path, dots written as double underscores; objects that lack
    are made."""
    changed = copy.deepcopy(case)
    for path, value in values.items():
        here = changed
        *parents, last = [int(p) if p.isdigit() else p for p in path.split("__")]
        for piece in parents:
            here = here.setdefault(piece, {}) if isinstance(here, dict) else here[piece]
        here[last] = value
    return changed


@pytest.fixture
def case() -> dict[str, Any]:
    return first_case()


@pytest.fixture(scope="session")
def book() -> Rulebook:
    return load_rulebook()
