"""Facts and house rules as data; every row has a value, unit, source and sureness.

Imports only `mallet.terms`.
"""

from mallet.rulebook.book import Rulebook, load_rulebook

__all__ = ["Rulebook", "load_rulebook"]
