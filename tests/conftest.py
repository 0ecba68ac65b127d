"""How the tests are dealt out to those that run them side by side."""

import os

import pytest

# Whoever has driven a browser has its loop running, and may get tests of the server afterwards.
os.environ["DJANGO_ALLOW_ASYNC_UNSAFE"] = "true"


def pytest_collection_modifyitems(items: list[pytest.Item]) -> None:
    """Put browser tests, which take longest, in turn at the head of each worker's share: a worker steals from another
    what is left last, and that should be short."""
    workers = int(os.environ.get("PYTEST_XDIST_WORKER_COUNT", "1"))
    browser = [item for item in items if item.path.parent.name == "views"]
    others = [item for item in items if item.path.parent.name != "views"]
    dealt: list[pytest.Item] = []
    for i in range(workers):
        own = browser[i::workers]
        share = len(items) * (i + 1) // workers - len(items) * i // workers - len(own)
        dealt += [*own, *others[:share]]
        others = others[share:]
    items[:] = [*dealt, *others]
