"""The field's words: nothing that somebody can read says an old one."""

from __future__ import annotations

import pytest

from tests.core.readable import readable_texts
from tests.core.words import old_words


@pytest.mark.parametrize("old", ["an old mass", "Warmth of 5 K", "the neighbour's ridge", "A bevelled edge"])
def test_an_old_word_is_found(old: str) -> None:
    assert list(old_words(old))


def test_nothing_in_interface_rulebook_or_sentences_says_an_old_word() -> None:
    texts = list(readable_texts())
    assert len(texts) > 3000, "the texts must be found"
    found = [
        f"{file}: {', '.join(words)}: {text}" for file, text in texts if (words := list(old_words(text)))
    ]
    assert found == []
