"""Small matters of English."""

from __future__ import annotations

_SPOKEN_WITH_A_VOWEL = "AEFHILMNORSX"


def a(word: str) -> str:
    """A word with its indefinite article, as it is spoken.

    >>> a("line"), a("arc"), a("SVG"), a("3MF"), a("STEP"), a("unit")
    ('a line', 'an arc', 'an SVG', 'a 3MF', 'a STEP', 'a unit')
    """
    first = word[:1]
    # letters read one by one, unless they make a word that can be spoken
    letters = word.isupper() and not any(v in word[1:] for v in "AEIOUY")
    if letters:
        return f"{'an' if first in _SPOKEN_WITH_A_VOWEL else 'a'} {word}"
    return f"{'an' if first.lower() in 'aeio' else 'a'} {word}"


def opens(text: str) -> str:
    """Text with a capital at its start, the rest as it is."""
    return text[:1].upper() + text[1:]
