"""Words that many messages are made of: plural forms and rows of numbers."""

from collections.abc import Iterable


def count(number: int, word: str) -> str:
    """ "1 hit", "3 hits", "2 crashes"."""
    if number == 1:
        return f"1 {word}"
    return f"{number} {word}{'es' if word.endswith(('sh', 's')) else 's'}"


def runs(numbers: Iterable[int]) -> str:
    """ "2-4, 8": rising numbers, neighbours drawn together."""
    out: list[list[int]] = []
    for n in sorted(set(numbers)):
        if out and n == out[-1][1] + 1:
            out[-1][1] = n
        else:
            out.append([n, n])
    return ", ".join(f"{a}" if a == b else f"{a}-{b}" for a, b in out)


def these(word: str, numbers: Iterable[int]) -> str:
    """ "Bar 3", "Bars 2-4, 8"."""
    found = sorted(set(numbers))
    return f"{word.capitalize()}{'s' if len(found) != 1 else ''} {runs(found)}"
