"""Words that the field does not use, or that an earlier version did; nobody reads them any more.

Source: glossaries of operative dentistry and American usage (common practice, no source).
"""

from __future__ import annotations

import re
from functools import cache

# An old word, and the places where the same letters are plain English or another term.
OLD: dict[str, list[str]] = {
    r"mass(es)?": ["by mass of"],
    r"portions?": [],
    r"lamps?": [],
    r"press(es)?": ["press it (down again|gently|home)", "press the strip"],
    r"dose": ["(maximum|total|last|further) dose", "dose (of|given)", "by dose"],
    r"weakest|darkest|dimmest": [],
    r"decay\w*|caved in|cave-in": [],
    r"fillings?": [],
    r"neck": [],
    r"cervical line": [],
    r"gums?": [],
    r"neighbou?rs?('s)?": [],
    r"(front|back) (tooth|teeth|edge)": [],
    r"root-filled": [],
    r"not alive|living pulp|dying": [],
    r"pulp shows|it shows": [],
    r"in doubt": [],
    r"schools?": [],
    r"stumps?": [],
    r"saucer": ["saucer-shaped lesion"],
    r"notch(es)?": ["retention notch( behind)?", "notch (behind|beside) ", "That a notch holds", "with a notch", "a notch of", "neither notch"],
    r"bites?|biting": ["open bite", "bite pain", "on biting", "biting lip"],
    r"tongue|cheek": ["lip or cheek"],
    r"seal(ing|ed)? (a|the) groove|grooves? (is|to be) sealed": [],
    r"shelf": [],
    r"things?": [],
    r"makers?('s)?": [],
    r"use by|gone over": [],
    r"trade item number": [],
    r"house|house rules?": [],
    r"(fairly )?sure": ["Be sure"],
    r"reckon\w*": [],
    r"tape": ["PTFE tape", "cord or tape", "ligature or tape"],
    r"grips?": [],
    r"heart": ["heart disease"],
    r"aslant|do not lean": [],
    r"habit": [],
    r"warm(th|s|ing)?|\d+(\.\d+)? K": [],
    r"anew|nobody has (said|told)|not told|none told": [],
    r"deciduous": [],
    r"crown form": ["strip crown form"],
    r"orange shield": [],
    r"strict(ly)? need(ed)?": [],
    r"colou?red|colour|grey|bevelled|millimetres?|fibre|mould|centre|anaesthe\w*|caries-?free colour": [],
    r"natural layering": [],
}  # fmt: skip


# Most texts say none: one look tells.
ANY = re.compile(rf"\b({'|'.join(OLD)})\b", re.IGNORECASE)


@cache
def old_words(text: str) -> tuple[str, ...]:
    """Return the old words that a text says outside the places where they are meant."""
    if not ANY.search(text):
        return ()
    bare = re.sub(r"\{[^}]*\}", "{}", text)
    return tuple(found for old, allowed in OLD.items() if (found := _said(old, allowed, bare)))


def _said(old: str, allowed: list[str], text: str) -> str | None:
    for context in allowed:
        text = re.sub(context, "", text, flags=re.IGNORECASE)
    found = re.search(rf"\b({old})\b", text, flags=re.IGNORECASE)
    return found.group() if found else None
