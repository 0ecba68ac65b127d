"""By which abrasives composite is finished: those in stock that reach its surface, from coarse to finest.

Discs flex over what is convex and open, cups and points get where a disc's rim would cut into tooth or gingiva. Source: common
practice, no source.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal, get_args

from mallet.terms.plan import Caution, Decision, Want
from mallet.terms.reasons import say, warn
from mallet.terms.stock import Abrasive, StockItem

Trimming = Literal["neck", "pit", "front", "groove", "cusps"]
Form = Literal["disc", "strip", "point", "cup", "stone", "paste"]
Grit = Literal["coarse", "medium", "fine", "finest"]
PRACTICE = "Common practice, no source"
COARSEST: tuple[Grit, ...] = get_args(Grit)
# What reaches a surface, what is best there first, and from which grit on it is wanted: a fine diamond leaves a groove as a
# medium disc leaves a face.
REACHES: dict[Trimming, tuple[tuple[Form, ...], Grit]] = {
    "front": (("disc", "cup", "point"), "medium"),
    "neck": (("cup", "disc", "point"), "medium"),
    "pit": (("point", "cup"), "fine"),
    "groove": (("point", "cup"), "fine"),
    "cusps": (("point", "cup"), "fine"),
}
SURFACES: dict[Trimming, str] = {
    "front": "the face",
    "neck": "the cervical surface",
    "pit": "the pit",
    "groove": "the grooves",
    "cusps": "cusps and grooves",
}


@dataclass(frozen=True)
class Series:
    """The abrasives of a surface in order, what is said of them, and the strips for what lies between the teeth."""

    surface: Trimming
    items: Sequence[Abrasive]
    lacking: Sequence[Grit]
    strips: Sequence[Abrasive]

    @property
    def says(self) -> str:
        """Return the abrasives in order, in words; empty where none in stock reaches."""
        return "; then ".join(one.name for one in self.items)

    @property
    def wants(self) -> list[Want]:
        used = [*self.items, *self.strips]
        return [
            Want(kind="abrasive", text=f"{one.grit} {one.form}", name=one.name, lot=one.lot) for one in used
        ]

    @property
    def decisions(self) -> list[Decision]:
        if not self.items:
            return []
        reason = say("finish.by_reach", surface=SURFACES[self.surface], form=self.items[0].form)
        return [Decision(topic="finish.series", chosen=self.says, alternatives=[], reasons=[reason])]

    @property
    def cautions(self) -> list[Caution]:
        surface, form = SURFACES[self.surface], REACHES[self.surface][0][0]
        if not self.items:
            return [warn("note", "finish.none_reaches", PRACTICE, surface=surface, form=form)]
        if not self.lacking:
            return []
        grits = " and ".join(self.lacking)
        return [
            warn("note", "finish.grit_lacks", PRACTICE, surface=surface, form=self.items[0].form, grits=grits)
        ]


def series_of(surface: Trimming, stock: Sequence[StockItem], *, is_between: bool) -> Series | None:
    """Return by what a surface is finished, each grit by what reaches it best; `is_between` where strips are wanted too. None where the
    practice keeps no abrasives in stock: it has them elsewhere."""
    kept = [one for one in stock if isinstance(one, Abrasive)]
    if not kept:
        return None
    forms, first = REACHES[surface]
    wanted = COARSEST[COARSEST.index(first) :]
    found: list[Abrasive] = []
    for grit in wanted:
        # Paste on a cup or brush brings the luster wherever nothing finer is at hand.
        reaching = (*forms, "paste") if grit == "finest" else forms
        fitting = [one for one in kept if one.grit == grit and one.form in reaching]
        found += sorted(fitting, key=lambda one: (reaching.index(one.form), one.name))[:1]
    lacking = [grit for grit in wanted if grit not in {one.grit for one in found}] if found else []
    strips = [one for one in kept if one.form == "strip"] if is_between else []
    return Series(
        surface, found, lacking, sorted(strips, key=lambda one: (COARSEST.index(one.grit), one.name))
    )
