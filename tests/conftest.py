"""How the tests are dealt out to those that run them side by side."""

import os
from itertools import islice

import pytest
from hypothesis import settings

# A slow machine is no fault, and what is drawn is the same in every run: `--hypothesis-profile=default` draws anew.
settings.register_profile("same", deadline=None, derandomize=True)
settings.load_profile("same")

# Whoever has driven a browser has its loop running, and may get tests of the server afterwards.
os.environ["DJANGO_ALLOW_ASYNC_UNSAFE"] = "true"
# So many other tests take about as long as filling the demo practice, and so many as building what browsers are shown.
MEANWHILE, WHILE_BUILDING = 60, 120 if "MALLET_BROWSABLE" in os.environ else 0


def pytest_collection_modifyitems(items: list[pytest.Item]) -> None:
    """Put browser tests, which take longest, in turn at the head of each worker's share: a worker steals from another
    what is left last, and that should be short. All begin with some others where the interface is still being built, all
    but the first with some more, while it fills the demo."""
    workers = int(os.environ.get("PYTEST_XDIST_WORKER_COUNT", "1"))
    browser = [item for item in items if item.path.parent.name == "views"]
    others = iter([item for item in items if item.path.parent.name != "views"])
    dealt: list[pytest.Item] = []
    for i in range(workers):
        dealt += islice(others, WHILE_BUILDING + (MEANWHILE if i else 0))
        dealt += browser[i::workers]
        dealt += islice(others, max(0, len(items) * (i + 1) // workers - len(dealt)))
    items[:] = [*dealt, *others]
