"""Every tooth as the handbook has it, to be drawn and tapped."""

from __future__ import annotations

import math
from functools import cache

from django.http import HttpRequest
from ninja import Router, Schema

from mallet.rulebook import load_rulebook
from mallet.tooth import loft_crown, read_tooth
from practice.api.access import user_of
from practice.api.rows import shown_tooth

router = Router(tags=["patients"])
PERMANENT = [f"{quadrant}{position}" for quadrant in range(1, 5) for position in range(1, 9)]
PRIMARY = [f"{quadrant}{position}" for quadrant in range(5, 9) for position in range(1, 6)]
EVERY_OTHER = 2


class ToothOut(Schema):
    """A tooth as it is seen from occlusal in its own frame: mesial to the right, facial up, in mm."""

    code: str
    shown: str
    name: str
    is_primary: bool
    is_posterior: bool
    outline: list[tuple[float, float]]


@router.get("teeth", response=list[ToothOut])
def teeth(request: HttpRequest) -> list[ToothOut]:
    """Return every tooth as the handbook has it, to be drawn and tapped."""
    user = user_of(request)
    return [
        one.model_copy(update={"shown": shown_tooth(read_tooth(one.code), user)}) for one in _handbook_teeth()
    ]


@cache
def _handbook_teeth() -> list[ToothOut]:
    return [_tooth(code) for code in [*PERMANENT, *PRIMARY]]


def _tooth(code: str) -> ToothOut:
    tooth = read_tooth(code)
    crown = loft_crown(tooth, load_rulebook())
    # As it is seen from occlusal: of each column of the crown the place farthest out.
    columns = crown.axial[crown.axial[:, 0, 2] >= 0].transpose(1, 0, 2)[::EVERY_OTHER, :, :2]
    outline = [max(column.tolist(), key=lambda place: math.hypot(*place)) for column in columns]
    return ToothOut(
        code=code,
        shown=code,
        name=tooth.name,
        is_primary=tooth.is_deciduous,
        is_posterior=tooth.is_posterior,
        outline=[(round(x, 2), round(y, 2)) for x, y in outline],
    )
