"""Turns a schema validation error into lines that name path, value given and values allowed."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any, get_args

from pydantic import BaseModel, ValidationError
from pydantic_core import ErrorDetails

from mallet.terms.errors import ONE_OF, UNKNOWN_KEY, Problem, shown

# The keys that name a variant.
TAGS = ("kind", "material")


def problems_of(error: ValidationError, data: object, model: type[BaseModel]) -> list[Problem]:
    """Return one problem a field, in the order of the file."""
    return [_problem(detail, data, model) for detail in error.errors()]


def path_text(loc: tuple[int | str, ...], data: object) -> str:
    """Return a location as written in the file: `preparation.parts[1].height_mm`.

    Tags that validation puts into the location but that no key of the file bears are left out.
    """
    text, here = "", data
    for i, piece in enumerate(loc):
        if isinstance(piece, int):
            text += f"[{piece}]"
            here = here[piece] if isinstance(here, list) and piece < len(here) else None
            continue
        is_tag = (
            isinstance(here, Mapping)
            and piece not in here
            and piece in (here.get("kind"), here.get("material"))
        )
        if is_tag and i < len(loc) - 1:
            continue
        text += f".{piece}" if text else piece
        here = here.get(piece) if isinstance(here, Mapping) else None
    return text or "case"


def _problem(detail: ErrorDetails, data: object, model: type[BaseModel]) -> Problem:
    path = path_text(detail["loc"], data)
    kind = detail["type"]
    if kind == "missing":
        return Problem(path, "nothing", "a value: it is required")
    if kind == "extra_forbidden":
        names = ", ".join(sorted(_model_at(detail["loc"][:-1], model).model_fields))
        return Problem(path, UNKNOWN_KEY, ONE_OF + names)
    return Problem(path, shown(detail["input"]), _allowed(detail))


def _allowed(detail: ErrorDetails) -> str:
    context: dict[str, Any] = detail.get("ctx", {})
    bounds = {
        "greater_than": "more than {gt:g}",
        "greater_than_equal": "{ge:g} or more",
        "less_than_equal": "{le:g} or less",
        "literal_error": "{expected}",
        "union_tag_invalid": "a kind among {expected_tags}",
        "union_tag_not_found": "a part with the key 'kind'",
        "too_short": "a list of at least {min_length}",
        "too_long": "a list of at most {max_length}",
        "string_too_short": "text of at least {min_length} characters",
        "string_too_long": "text of at most {max_length} characters",
        "finite_number": "a finite number",
        "float_type": "a number",
        "float_parsing": "a number",
        "string_type": "text",
        "bool_parsing": "true or false",
        "list_type": "a list",
        "model_type": "an object",
        "model_attributes_type": "an object",
        "string_pattern_mismatch": "a date such as 2026-11-21",
        "value_error": "{error}",
    }
    return bounds.get(detail["type"], detail["msg"]).format(**context)


def _model_at(loc: tuple[int | str, ...], model: type[BaseModel]) -> type[BaseModel]:
    """Return the model that validates the object at a location; tags choose among variants."""
    candidates = [model]
    for piece in loc:
        if isinstance(piece, int):
            continue
        tagged = [m for m in candidates if piece in _tags(m)]
        if tagged and len(candidates) > 1:
            candidates = tagged
        else:
            candidates = _models_in(candidates[0].model_fields[piece].annotation)
    return candidates[0]


def _tags(model: type[BaseModel]) -> tuple[Any, ...]:
    """Return what names a model among variants."""
    tag = next((model.model_fields[name] for name in TAGS if name in model.model_fields), None)
    return get_args(tag.annotation) if tag else ()


def _models_in(annotation: object) -> list[type[BaseModel]]:
    if isinstance(annotation, type) and issubclass(annotation, BaseModel):
        return [annotation]
    return [m for argument in get_args(annotation) for m in _models_in(argument)]
