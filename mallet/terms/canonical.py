"""Canonical JSON: sorted keys, quantised numbers, no NaN, so that equal plans are equal bytes."""

from __future__ import annotations

import hashlib
import json
import math
from typing import Any

DECIMALS = 6


def quantised(value: Any, decimals: int = DECIMALS) -> Any:
    """Return a JSON-like value with every float rounded; raise ValueError at NaN or infinity."""
    if isinstance(value, float):
        if not math.isfinite(value):
            raise ValueError("a plan holds no NaN and no infinity")
        return round(value, decimals) + 0.0
    if isinstance(value, dict):
        return {key: quantised(item, decimals) for key, item in value.items()}
    if isinstance(value, list | tuple):
        return [quantised(item, decimals) for item in value]
    return value


def canonical_json(value: Any) -> str:
    """Return a JSON-like value as its one canonical text."""
    return json.dumps(
        quantised(value), sort_keys=True, ensure_ascii=False, allow_nan=False, separators=(",", ":")
    )


def sha256_of(value: Any) -> str:
    """Return the SHA-256 of the canonical text of a value."""
    return hashlib.sha256(canonical_json(value).encode()).hexdigest()
