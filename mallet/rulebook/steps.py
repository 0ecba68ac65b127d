"""The catalogue of steps: what the two people do at each, in the files of `steps`; the code gives what the case tells."""

from __future__ import annotations

import tomllib
from collections.abc import Mapping
from functools import cache
from importlib import resources
from typing import Any, Literal

from pydantic import ValidationError

from mallet.rulebook.book import Rulebook
from mallet.terms.errors import RulebookError
from mallet.terms.pieces import Piece
from mallet.terms.plan import Actor, Step, StepCheck, StepRole

FILES = (
    "assess", "shade", "isolate", "prepare", "protect", "matrix", "bond", "build", "finish", "ionomer", "sealant", "amalgam", "gold",
)  # fmt: skip


class StepWords(Piece):
    """A step as its catalogue has it, with what the case tells in braces. `says` is what is added where the case asks for
    it, or by which of several ways. Its stage is the first word of its id, its time that of a rule, unless said otherwise."""

    id: str
    stage: str
    title: str
    detail: str
    rule: str | None = None
    actor: Actor = "dentist"
    timed: bool = False
    light: bool = False
    hold: Literal["preparation", "finished"] | None = None
    role: StepRole | None = None
    device: Literal["mixer", "annealer"] | None = None
    tray: list[str] = []
    check: StepCheck | None = None
    says: dict[str, str | dict[str, str]] = {}


@cache
def steps_catalog() -> Mapping[str, StepWords]:
    """Return every step by its file and name; raise RulebookError where a row is incomplete."""
    folder = resources.files("mallet.rulebook") / "steps"
    found = {}
    for file in FILES:
        for name, row in tomllib.loads((folder / f"{file}.toml").read_text()).items():
            found[f"{file}.{name}"] = _read(f"{file}.{name}", row)
    return found


def _read(name: str, row: Mapping[str, Any]) -> StepWords:
    try:
        return StepWords.model_validate({"stage": row["id"].partition(".")[0], **row})
    except ValidationError as error:
        raise RulebookError(f"step {name}: {error}") from error


def catalog_step(name: str, rules: Rulebook, told: Mapping[str, Any] | None = None, **fields: Any) -> Step:
    """Return a step of the catalogue with what the case tells; `fields` are of the step itself.

    What is in `says` is told by its way, or by whether it is said at all; a thing on the tray that comes out empty is left
    off. Raises RulebookError for an unknown step, or where something that it names is not told.
    """
    if name not in steps_catalog():
        raise RulebookError(f"no step {name!r}")
    row = steps_catalog()[name]
    words = _Words(name, told or {}, row.says)
    made: dict[str, Any] = {
        "id": words.fill(row.id),
        "title": _capital(words.fill(row.title)),
        "detail": _capital(words.fill(row.detail)),
        "tray": [thing for thing in map(words.fill, row.tray) if thing],
        "check": row.check and StepCheck(**{k: words.fill(text) for k, text in row.check if text}),
    }
    if row.rule:
        use = rules.use(row.rule)
        made |= {"seconds": use.value, "seconds_rule": use}
    kept = row.model_dump(include={"stage", "actor", "timed", "light", "hold", "role", "device"})
    return Step.model_validate({**kept, **made, **fields})


class _Words(dict[str, Any]):
    """What fills the braces of a step: what is told, and what its row says of that."""

    def __init__(self, step: str, told: Mapping[str, Any], says: Mapping[str, str | dict[str, str]]) -> None:
        super().__init__({name: value for name, value in told.items() if name not in says})
        self._step, self._told, self._says = step, told, says

    def fill(self, text: str) -> str:
        return text.format_map(self)

    def __missing__(self, name: str) -> str:
        if name not in self._told:
            raise RulebookError(f"step {self._step} lacks {name}")
        told, ways = self._told[name], self._says[name]
        if isinstance(ways, str):
            return self.fill(ways) if told else ""
        return self.fill(ways.get(str(told).lower() if isinstance(told, bool) else told, ""))


def _capital(text: str) -> str:
    return text[:1].upper() + text[1:]
