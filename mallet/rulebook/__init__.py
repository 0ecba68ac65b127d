"""Facts and practice settings as data; every row has a value, unit, source and sureness.

Imports only `mallet.terms`.
"""

from mallet.rulebook.book import Dispute, Rule, Rulebook, load_rulebook
from mallet.rulebook.where_used import where_used

__all__ = ["Dispute", "Rule", "Rulebook", "load_rulebook", "where_used"]
