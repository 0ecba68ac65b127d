"""The catalogue of sentences that the heart says, kept in `texts.toml`; the interface may translate by code."""

from __future__ import annotations

import tomllib
from importlib import resources
from typing import Any, Literal

from mallet.terms.errors import NotFeasible
from mallet.terms.pieces import Reason, RuleUse
from mallet.terms.plan import Caution


def _texts() -> dict[str, str]:
    """Return every sentence by its code."""
    told = tomllib.loads((resources.files("mallet.terms") / "texts.toml").read_text())
    return {
        code: text
        for group, inner in told.items()
        for code, text in (
            {f"{group}.{name}": text for name, text in inner.items()}
            if isinstance(inner, dict)
            else {group: inner}
        ).items()
    }


TEXTS = _texts()


def say(code: str, **params: Any) -> Reason:
    """Return the catalogue's sentence for a code; an unknown code raises KeyError."""
    return Reason(code=code, params=params, text=TEXTS[code].format(**params))


def warn(level: Literal["note", "caution", "stop"], code: str, authority: str, **params: Any) -> Caution:
    """Return a caution with the authority it rests on."""
    text = TEXTS[code].format(**params)
    return Caution(level=level, code=code, params=params, text=text, authority=authority)


def warn_by(level: Literal["note", "caution", "stop"], code: str, use: RuleUse, **params: Any) -> Caution:
    """Return a caution that rests on a rule."""
    return warn(level, code, use.citation, **params).model_copy(update={"rules": [use]})


def refuse(code: str, nearest: dict[str, object] | None = None, **params: Any) -> NotFeasible:
    """Return the error that says which requirement fails and what would do."""
    return NotFeasible(code, TEXTS[code].format(**params), nearest)


def signed(mm: float) -> str:
    """Return a height with its sign, a level one without."""
    return f"{mm:+.1f}".replace("-", "\u2212") if round(mm, 1) else "0.0"
