"""What the stages of a plan ask for, each question with its words and what is taken where nobody tells it."""

from __future__ import annotations

from typing import Any, Literal

from mallet.terms.pieces import Piece

AskKind = Literal[
    "choice", "yes", "count", "text", "length", "stock", "cusps", "features", "anesthetics", "teeth", "target", "composites"
]  # fmt: skip


class Choice(Piece):
    """One answer; of a feature that may be cut, the part that it stands for, its place among the parts where it is, and the
    surfaces of the restoration once it is cut or taken back, where they are others."""

    value: str
    name: str
    title: str = ""
    part: dict[str, Any] | None = None
    cut_at: int | None = None
    surfaces: str | None = None


class Ask(Piece):
    """One question, by the path of the case that answers it; `help` says how it is found out.

    `taken` is what the plan goes by where nobody tells it, `is_assumed` where that is a guess about the patient; nothing is
    taken for what `is_wanted`.
    """

    path: str
    name: str
    kind: AskKind
    options: list[Choice] = []
    taken: str = ""
    is_assumed: bool = False
    is_wanted: bool = False
    is_folded: bool = False
    unit: str = ""
    help: str = ""
    most: int | None = None
    stock: list[str] = []


class Measurement(Piece):
    """A size of the preparation that is asked for: of which part, what it is called, how it is measured, and what it is
    taken for where it may be left untold."""

    path: str
    part: str
    name: str
    unit: str
    help: str
    taken: str = ""


class Comparison(Piece):
    """What plans of one cavity may be held side by side by: the answers to a question, the curing lights of the practice, or
    the materials in stock that it may be built of, or other restoratives."""

    path: str
    name: str
    by: Literal["answer", "light", "material", "restorative"]
