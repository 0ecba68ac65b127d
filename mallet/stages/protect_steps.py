"""What the hands do to protect a pulp: stop its bleeding, place what covers it, let it set."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any, Literal

from mallet.rulebook import Rulebook
from mallet.rulebook.steps import catalog_step
from mallet.stages.asks import title_of_item
from mallet.terms.case import Case
from mallet.terms.pieces import Reason
from mallet.terms.plan import InputUse, Step
from mallet.terms.stock import Base, Liner

Cover = Base | Liner
SILICATE: Literal["calcium_silicate"] = "calcium_silicate"
IONOMER: Literal["resin_modified_ionomer"] = "resin_modified_ionomer"
SUBSTANCES = {
    "calcium_silicate": "calcium silicate",
    "resin_modified_ionomer": "resin-modified ionomer",
    "zinc_phosphate": "zinc phosphate",
    "calcium_hydroxide": "calcium hydroxide",
}
# A pulp that was opened is covered, whatever is left over it elsewhere.
OPENED = ("cap", "pulpotomy")


@dataclass(frozen=True)
class Taken:
    """A base or liner, its place in stock, if it stands there, and why it was taken."""

    cover: Cover
    at: int | None
    reason: Reason

    @property
    def name(self) -> str:
        """Return what it is and, from stock, what it is called."""
        kind = f"{SUBSTANCES[self.cover.substance]} {self.cover.kind}"
        return kind if self.at is None else f"{kind}: {self.cover.name}"


def protect_steps(case: Case, taken: Taken, rules: Rulebook) -> list[Step]:
    """Return what the hands do for a base or liner, over an opened pulp too."""
    made: list[Step] = []

    def add(name: str, told: dict[str, Any] | None = None, **fields: object) -> None:
        after = [made[-1].id if made else "prepare.verify"]
        made.append(catalog_step(f"protect.{name}", rules, told, **{"after": after, **fields}))

    opened = case.protection.exposure in OPENED
    if case.protection.exposure == "pulpotomy":
        add("pulpotomy")
    if opened:
        add("bleeding")
    if case.protection.placed_days_ago is not None:
        add("cut_back")
        return made
    cover = taken.cover
    what = SUBSTANCES[cover.substance]
    name = what if taken.at is None else cover.name
    named = {"kind": cover.kind, "name": name}
    add("mix", {**named, "drop": cover.substance})
    most_mm = cover.most_mm if isinstance(cover, Liner) else None
    placed = {**named, "how": _placing(case, cover), "most_mm": most_mm}
    add(
        "place",
        placed,
        after=["prepare.verify", *(["protect.bleeding"] if opened else []), "protect.mix"],
    )
    add("set", {"what": what, **_setting(cover)}, **_set_time(taken, rules))
    if isinstance(cover, Base):
        add("trim", {"least_mm": cover.least_above_mm})
    return made


def _placing(case: Case, cover: Cover) -> str:
    """Return in which of the catalogue's ways it is placed."""
    if isinstance(cover, Liner):
        is_wide = cover.substance == "calcium_hydroxide" and case.techniques.hydroxide == "whole_floor"
        return "whole_floor" if is_wide else "deepest_spot"
    if case.protection.exposure in OPENED:
        return "exposed"
    return "silicate" if cover.substance == SILICATE else "base"


def _setting(cover: Cover) -> dict[str, Any]:
    """Return in which of the catalogue's ways it sets, and until when it is soft."""
    if isinstance(cover, Base) and cover.soft_until_s:
        return {"setting": "soft", "soft_min": cover.soft_until_s / 60}
    return {"setting": "lit" if cover.substance == IONOMER else "itself"}


def _set_time(taken: Taken, rules: Rulebook) -> dict[str, Any]:
    """Return a step's seconds as the manufacturer tells them, for what stands in stock, else by the handbook."""
    if taken.at is None:
        is_silicate = taken.cover.substance == SILICATE
        use = rules.use("protect.silicate_set_s" if is_silicate else "protect.ionomer_set_s")
        return {"seconds": use.value, "seconds_rule": use}
    path, set_s = f"stock[{taken.at}].set_s", taken.cover.set_s
    told = InputUse(
        path=path,
        title=title_of_item(taken.cover.name, "set_s"),
        value=set_s,
        unit="s",
        provenance="handbook",
    )
    return {"seconds": set_s, "seconds_input": told}
