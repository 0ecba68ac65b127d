"""What would hold a restoration: sets of parts that could be cut besides, for the dentist to choose from."""

from __future__ import annotations

from mallet.restoratives.registry import RESTORATIVES
from mallet.rulebook import Rulebook, load_rulebook
from mallet.stages.untold import with_untold
from mallet.terms.case import Case
from mallet.terms.plan import Design


def what_would_hold(case: Case, book: Rulebook | None = None) -> list[Design]:
    """Return the least invasive sets of holds that are enough, best first; nothing where nothing is wanted.

    Raises InputError for a case that contradicts itself or the tooth.
    """
    rules = (book or load_rulebook()).with_house(case.practice_settings)
    told, _ = with_untold(case, rules)
    return RESTORATIVES[case.restoration.material].designs(told, rules)
