"""What the parts of a preparation and their sizes are called, and how each is measured."""

from __future__ import annotations

import re
import tomllib
from collections.abc import Mapping
from functools import cache
from importlib import resources
from typing import Any

from mallet.terms.pieces import Piece


class SizeWords(Piece):
    """A size: what it is called, how it is measured, and what it is taken for where it may be left untold."""

    size: str
    name: str
    help: str
    taken: str = ""


class PartWords(Piece):
    """A kind of part: its name, in which `{side}` and `{at}` stand for where it is cut, the sizes that are asked for in
    the order of measuring, those asked besides where nothing bonds the restoration, and all that it has. `short` is what
    it is called beside its sizes."""

    kind: str
    name: str
    short: str
    asked: list[str]
    condensed: list[str]
    sizes: list[SizeWords]


@cache
def parts_catalog() -> Mapping[str, PartWords]:
    """Return the words of every kind of part, in the order in which they are measured."""
    told = _told()
    found = {}
    for kind, row in told["parts"].items():
        sizes = {**told["sizes"], **told["of"].get(kind, {})}
        words = [SizeWords(size=size, **said) for size, said in sizes.items()]
        found[kind] = PartWords(
            kind=kind,
            name=row["name"],
            short=row.get("short", row["name"]),
            asked=row["sizes"],
            condensed=row.get("condensed", []),
            sizes=words,
        )
    return found


class FeatureWords(Piece):
    """What may be cut besides the cavity: as little as tells it from the others, the same in full, and its sizes until
    somebody tells others."""

    kind: str
    name: str
    title: str
    part: dict[str, Any]


@cache
def features_catalog() -> Mapping[str, FeatureWords]:
    """Return what may be cut besides the cavity, by kind."""
    return {kind: FeatureWords(kind=kind, **row) for kind, row in _told()["features"].items()}


@cache
def path_words() -> Mapping[str, str]:
    """Return what other paths of a case are called."""
    return dict(_told()["words"])


def part_name(kind: str, *, is_short: bool = False, **where: str) -> str:
    """Return what a part is called, with where it is cut."""
    words = parts_catalog()[kind]
    name = words.short if is_short else words.name
    return name.format(**{"side": "", "at": "", **where}).strip()


def size_name(kind: str, size: str) -> str:
    """Return what a size of a kind of part is called."""
    return next(one.name for one in parts_catalog()[kind].sizes if one.size == size)


def short_of(site: str) -> str:
    """Return a cusp by its letters, a side, or a cusp that has its side's name, as it is."""
    found = re.fullmatch(r"(mesio|disto)(facial|lingual)", site)
    return (found[1][0] + found[2][0]).upper() if found else site


@cache
def _told() -> dict[str, Any]:
    return tomllib.loads((resources.files("mallet.rulebook") / "parts.toml").read_text())
