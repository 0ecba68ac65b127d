"""Errors that the heart raises; each holds its fields and builds its own text."""

from __future__ import annotations

from dataclasses import dataclass

# How a problem tells a key that is none, and what keys there are.
UNKNOWN_KEY = "an unknown key"
ONE_OF = "one of "


class MalletError(Exception):
    """Base of everything the heart raises on purpose."""


@dataclass(frozen=True)
class Problem:
    """One thing wrong with an input: where, what was given, what is allowed."""

    path: str
    got: str
    allowed: str

    def __str__(self) -> str:
        return f"{self.path}: got {self.got}, allowed {self.allowed}"


class InputError(MalletError):
    """A case or file that cannot be read as meant; carries every problem found."""

    def __init__(self, *problems: Problem) -> None:
        self.problems = problems
        super().__init__("\n".join(str(p) for p in problems))

    @classmethod
    def at(cls, path: str, got: object, allowed: str) -> InputError:
        return cls(Problem(path, shown(got), allowed))


class NotFeasible(MalletError):  # noqa: N818 - an answer, not a fault
    """A sound case for which no plan exists: the failing requirement and the nearest that would do."""

    def __init__(self, code: str, text: str, nearest: dict[str, object] | None = None) -> None:
        self.code = code
        self.text = text
        self.nearest = nearest or {}
        super().__init__(text)


class RulebookError(MalletError):
    """A rulebook row that is incomplete, or a rule that does not exist."""


def shown(value: object) -> str:
    """Return a value as a reader of a file would write it, cut to one short line."""
    if isinstance(value, float):
        return f"{value:g}"
    text = repr(value) if isinstance(value, str) else str(value)
    text = " ".join(text.split())
    return text if len(text) <= 60 else text[:57] + "..."
