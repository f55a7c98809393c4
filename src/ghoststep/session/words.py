"""Words that many messages are made of: plural forms and rows of numbers."""

from collections.abc import Iterable

from ghoststep.judge.words import runs


def count(number: int, word: str) -> str:
    """ "1 hit", "3 hits", "2 crashes"."""
    if number == 1:
        return f"1 {word}"
    return f"{number} {word}{'es' if word.endswith(('sh', 's')) else 's'}"


def these(word: str, numbers: Iterable[int]) -> str:
    """ "Bar 3", "Bars 2-4, 8"."""
    found = sorted(set(numbers))
    return f"{word.capitalize()}{'s' if len(found) != 1 else ''} {runs(found)}"


__all__ = ["count", "runs", "these"]
