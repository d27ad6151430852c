"""Small matters of English."""

from __future__ import annotations

from collections.abc import Sequence

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


def listed(words: Sequence[str], most: int = 4) -> str:
    """Words in a row, the last joined by "and"; many are counted.

    >>> listed(["one"]), listed(["one", "two", "three"]), listed(["a", "b", "c", "d", "e", "f"])
    ('one', 'one, two and three', 'a, b, c and 3 more')
    """
    if len(words) > most:
        words = [*words[: most - 1], f"{len(words) - most + 1} more"]
    return " and ".join(filter(None, (", ".join(words[:-1]), *words[-1:])))


def not_whole(titles: Sequence[str]) -> str:
    """What is said of a part some of whose steps could not be built; empty where there are none.

    >>> not_whole(["Sketch 2", "Extrude 3"])
    'not whole: Sketch 2 and Extrude 3 could not be built, so this is the part without them'
    """
    if not titles:
        return ""
    them = "it" if len(titles) == 1 else "them"
    return f"not whole: {listed(titles)} could not be built, so this is the part without {them}"


def opens(text: str) -> str:
    """Text with a capital at its start, the rest as it is."""
    return text[:1].upper() + text[1:]
