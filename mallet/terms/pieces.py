"""What plans are put together of: the base of all pieces, sentences with their parameters, rules as they acted."""

from __future__ import annotations

from typing import Any

from pydantic import BaseModel, ConfigDict


class Piece(BaseModel):
    model_config = ConfigDict(extra="forbid", frozen=True)


class Reason(Piece):
    """A sentence with the stable code and parameters it was rendered from."""

    code: str
    params: dict[str, Any]
    text: str


class RuleUse(Piece):
    """A rule as it acted: the value in force and, when the practice changed it, the default."""

    rule: str
    title: str
    value: float
    unit: str
    source: str
    citation: str
    sureness: str
    school: str | None = None
    default_value: float | None = None


class Point(Piece):
    x: float
    y: float
    z: float
