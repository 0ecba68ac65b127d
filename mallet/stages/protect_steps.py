"""What the hands do to protect a pulp: stop its bleeding, place what covers it, let it set."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any, Literal

from mallet.cavity.preparation import Cavity
from mallet.rulebook import Rulebook
from mallet.rulebook.steps import catalog_step
from mallet.stages.asks import title_of_item
from mallet.terms.case import Case
from mallet.terms.pieces import Reason
from mallet.terms.plan import InputUse, Step
from mallet.terms.stock import Base, Liner
from mallet.tooth import read_tooth

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


def protect_steps(case: Case, taken: Taken, after: str, rules: Rulebook) -> list[Step]:
    """Return what the hands do for a base or liner, over an opened pulp too; it begins after another step."""
    made = _opened(case, None, after, rules)
    if case.protection.placed_days_ago is not None:
        return [*made, catalog_step("protect.cut_back", rules, after=[_last(made, after)])]
    made += _covering(case, taken, _placing(case, taken.cover), _last(made, after), rules)
    what = SUBSTANCES[taken.cover.substance]
    set_ = {"what": what, **_setting(taken.cover)}
    made.append(catalog_step("protect.set", rules, set_, after=[made[-1].id], **_set_time(taken, rules)))
    if isinstance(taken.cover, Base):
        told = {"least_mm": taken.cover.least_above_mm}
        made.append(catalog_step("protect.trim", rules, told, after=[made[-1].id]))
    return made


def sealed_steps(
    case: Case, cavity: Cavity, taken: Taken, seal: Taken, after: str, rules: Rulebook
) -> list[Step]:
    """Return what the hands do for an open pulp that is covered and sealed over at once with what is lit; it begins after
    another step."""
    chamber = cavity.chamber
    made = _opened(case, chamber and chamber.volume(), after, rules)
    made += _covering(case, taken, "chamber" if chamber else "exposed", _last(made, after), rules)
    name = SUBSTANCES[seal.cover.substance] if seal.at is None else seal.cover.name
    told = {"name": name, "under": SUBSTANCES[taken.cover.substance]}
    made.append(catalog_step("protect.seal", rules, told, after=[made[-1].id]))
    set_ = {"what": SUBSTANCES[seal.cover.substance], **_setting(seal.cover)}
    return [*made, catalog_step("protect.set", rules, set_, after=[made[-1].id], **_set_time(seal, rules))]


def _opened(case: Case, chamber_mm3: float | None, after: str, rules: Rulebook) -> list[Step]:
    """Return what is done with an open pulp until it no longer bleeds; nothing where it is not open."""
    if case.protection.exposure not in OPENED:
        return []
    made: list[Step] = []
    if case.protection.exposure == "pulpotomy":
        told: dict[str, Any] = {"volume": chamber_mm3 is not None, "mm3": chamber_mm3 or 0.0}
        made.append(catalog_step("protect.pulpotomy", rules, told, after=[after]))
    told = {"otherwise": "primary" if read_tooth(case.tooth.code).is_deciduous else "permanent"}
    return [*made, catalog_step("protect.bleeding", rules, told, after=[_last(made, after)])]


def _covering(case: Case, taken: Taken, how: str, after: str, rules: Rulebook) -> list[Step]:
    """Return how a base or liner is mixed and placed."""
    cover = taken.cover
    name = SUBSTANCES[cover.substance] if taken.at is None else cover.name
    named = {"kind": cover.kind, "name": name}
    mix = catalog_step("protect.mix", rules, {**named, "drop": cover.substance}, after=[after])
    placed = {
        **named,
        "how": how,
        "most_mm": cover.most_mm if isinstance(cover, Liner) else None,
        "over_mm": rules.value("protect.over_pulp_mm"),
    }
    return [mix, catalog_step("protect.place", rules, placed, after=[after, mix.id])]


def _last(made: list[Step], after: str) -> str:
    return made[-1].id if made else after


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
