"""JSON that is kept compressed: what a plan or a record says takes a fifth of the room, in the database and in every backup."""

from __future__ import annotations

import json
import zlib
from typing import Any

from django.db import models


class Packed(bytes):
    """What is packed already."""


def packed(value: object) -> Packed:
    """Return a value as it is kept."""
    return Packed(zlib.compress(json.dumps(value, separators=(",", ":")).encode()))


class PackedJSONField(models.BinaryField):
    """A value of JSON, none of which is looked for in the database; None where what is kept cannot be read any more."""

    def from_db_value(self, value: bytes | None, *_: object) -> Any:
        try:
            return None if value is None else json.loads(zlib.decompress(value))
        except (zlib.error, ValueError, TypeError):
            return None

    def get_prep_value(self, value: object) -> bytes | None:
        return value if value is None or isinstance(value, Packed) else packed(value)
