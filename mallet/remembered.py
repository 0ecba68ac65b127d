"""What was reckoned lately, by all that it was reckoned from."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Callable, Hashable
from threading import Lock
from typing import Generic, TypeVar

T = TypeVar("T")
_all: list[Remembered] = []  # type: ignore[type-arg]


class Remembered(Generic[T]):
    """The last so many results, which nobody may change. Two that ask for the same at once both reckon it."""

    def __init__(self, kept: int) -> None:
        self._kept = kept
        self._known: OrderedDict[Hashable, T] = OrderedDict()
        self._turn = Lock()
        _all.append(self)

    def get(self, key: Hashable, reckon: Callable[[], T]) -> T:
        """Return what belongs to a key, reckoned where it is not known."""
        with self._turn:
            if key in self._known:
                self._known.move_to_end(key)
                return self._known[key]
        found = reckon()
        with self._turn:
            self._known[key] = found
            while len(self._known) > self._kept:
                self._known.popitem(last=False)
        return found

    def forget(self) -> None:
        with self._turn:
            self._known.clear()


def forget() -> None:
    """Forget all results: who measures or compares the reckoning must not be told what is known."""
    for remembered in _all:
        remembered.forget()
