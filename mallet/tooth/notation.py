"""Tooth notation: two-digit (ISO 3950), 1-32 with A-T, and right-angle.

The two-digit code is what is stored. In text, 1-32 is written `#19` and right-angle with the
dentistry corner marks, the patient's right at the left: `6\u23cc` is the upper right first molar.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cache

from mallet.terms.errors import InputError

# Quadrant: (constant, sign) so that number = constant + sign * position.
_PERMANENT = {1: (9, -1), 2: (8, 1), 3: (25, -1), 4: (24, 1)}
_DECIDUOUS = {5: (6, -1), 6: (5, 1), 7: (16, -1), 8: (15, 1)}
_CORNERS = {1: "{}\u23cc", 2: "\u23bf{}", 3: "\u23be{}", 4: "{}\u23cb"}
_ACROSS = {1: 2, 2: 1, 3: 4, 4: 3, 5: 6, 6: 5, 7: 8, 8: 7}
_KINDS = {1: "central incisor", 2: "lateral incisor", 3: "canine", 4: "first premolar",
          5: "second premolar", 6: "first molar", 7: "second molar", 8: "third molar"}  # fmt: skip
_DECIDUOUS_KINDS = {
    n: f"primary {kind}" for n, kind in {**_KINDS, 4: "first molar", 5: "second molar"}.items()
}
_ALLOWED = "a tooth: two-digit 11 to 48 or 51 to 85, #1 to #32 or #A to #T, or right-angle"


@dataclass(frozen=True)
class ToothName:
    """A tooth by quadrant (1-4 permanent, 5-8 primary) and position from the midline."""

    quadrant: int
    position: int

    @property
    def iso(self) -> str:
        return f"{self.quadrant}{self.position}"

    @property
    def number(self) -> str:
        """Return 1-32 for a permanent tooth, A-T for a primary one."""
        if self.quadrant in _PERMANENT:
            constant, sign = _PERMANENT[self.quadrant]
            return str(constant + sign * self.position)
        constant, sign = _DECIDUOUS[self.quadrant]
        return chr(ord("A") + constant + sign * self.position - 1)

    @property
    def right_angle(self) -> str:
        """Return the right-angle notation; primary teeth bear letters."""
        if self.is_deciduous:
            return _CORNERS[self.quadrant - 4].format("ABCDE"[self.position - 1])
        return _CORNERS[self.quadrant].format(self.position)

    @property
    def is_upper(self) -> bool:
        return self.quadrant in (1, 2, 5, 6)

    @property
    def is_deciduous(self) -> bool:
        return self.quadrant >= 5

    @property
    def is_posterior(self) -> bool:
        return self.position >= 4

    @property
    def mirrored_when_drawn(self) -> bool:
        """Tell whether the computed frame (mesial, facial, occlusal) is left-handed in the mouth."""
        return self.quadrant in (2, 4, 6, 8)

    @property
    def name(self) -> str:
        jaw = "upper" if self.is_upper else "lower"
        side = "right" if self.quadrant in (1, 4, 5, 8) else "left"
        kinds = _DECIDUOUS_KINDS if self.is_deciduous else _KINDS
        return f"{jaw} {side} {kinds[self.position]}"

    def neighbour(self, side: str) -> ToothName | None:
        """Return the tooth on the mesial or distal side; behind a primary molar the first permanent one, None
        behind a third molar."""
        if side == "distal" and self.is_deciduous and self.position == 5:
            return ToothName(self.quadrant - 4, 6)
        if side == "distal":
            return ToothName(self.quadrant, self.position + 1) if self.position < 8 else None
        if self.position > 1:
            return ToothName(self.quadrant, self.position - 1)
        return ToothName(self.across, 1)

    @property
    def across(self) -> int:
        """Return the quadrant across the midline."""
        return _ACROSS[self.quadrant]

    def stands_for(self, other: ToothName) -> bool:
        """Tell whether a tooth is another one, or its primary or permanent counterpart."""
        return self.position == other.position and (self.quadrant - other.quadrant) % 4 == 0


def read_tooth(code: str, path: str = "tooth.code") -> ToothName:
    """Return the tooth that a code names; raise InputError for any other text."""
    tooth = _by_code().get(code)
    if tooth is None:
        raise InputError.at(path, code, _ALLOWED)
    return tooth


@cache
def _by_code() -> dict[str, ToothName]:
    permanent = [ToothName(q, p) for q in _PERMANENT for p in range(1, 9)]
    teeth = [*permanent, *(ToothName(q, p) for q in _DECIDUOUS for p in range(1, 6))]
    return {code: one for one in teeth for code in (one.iso, f"#{one.number}", one.right_angle)}
