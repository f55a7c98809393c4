"""What is typed as a row of words with their places in the text: numbers read, small misspellings mended."""

import re
from collections.abc import Iterable
from dataclasses import dataclass
from difflib import get_close_matches
from functools import lru_cache

from ghoststep.music.errors import InputError

MAX_LETTERS, MAX_WORDS = 400, 60
_WORD = re.compile(r"\d+(?:\.\d+)?|[^\W\d_]+(?:'[^\W\d_]+)?|[&%+/,;:-]", re.UNICODE)
_PLURAL = re.compile(r"\b(e|a|and|trip|let)'s\b", re.IGNORECASE)  # "all the e's"
_UNITS = dict(
    zip(
        ["zero", "one", "two", "three", "four", "five", "six", "seven", "eight", "nine", "ten", "eleven", "twelve"],
        range(13),
        strict=True,
    )
)
_TEENS = ["thirteen", "fourteen", "fifteen", "sixteen", "seventeen", "eighteen", "nineteen"]
_UNITS |= {word: 13 + k for k, word in enumerate(_TEENS)}
_TENS = {
    w: 10 * k for k, w in enumerate(["twenty", "thirty", "forty", "fifty", "sixty", "seventy", "eighty", "ninety"], 2)
}
_ORDINALS = {
    w: k
    for k, w in enumerate(
        [
            "first",
            "second",
            "third",
            "fourth",
            "fifth",
            "sixth",
            "seventh",
            "eighth",
            "ninth",
            "tenth",
            "eleventh",
            "twelfth",
        ],
        1,
    )
}
_SHORT_ORDINAL = ("st", "nd", "rd", "th")


@dataclass(frozen=True)
class Token:
    """A word as it is read, its number where it is one, its ordinal ("third", "3rd"), and where it stands in the text.

    glued: it follows the one before without a space, as the & of "4&".
    """

    word: str
    start: int
    end: int
    number: float | None = None
    ordinal: int | None = None
    glued: bool = False
    mended: str = ""  # what was typed, where another word is meant


def tokens_of(text: str, known: frozenset[str]) -> list[Token]:
    """The words of a text; those that nobody knows are read as the nearest that somebody does.

    Raises
    ------
    InputError
        Where there is more than anybody says in one go.
    """
    if len(text) > MAX_LETTERS:
        raise InputError(f"That is more than can be understood at once: {len(text)} letters, at most {MAX_LETTERS}.")
    text = _PLURAL.sub(r"\1s", text.replace("’", "'"))
    raw: list[Token] = []
    for found in _WORD.finditer(text.lower()):
        glued = bool(raw) and raw[-1].end == found.start()
        raw.append(_token(found[0], found.start(), found.end(), glued=glued))
    out = list(_joined(raw))
    if len(out) > MAX_WORDS:
        raise InputError(f"That is more than can be understood at once: {len(out)} words, at most {MAX_WORDS}.")
    return [_mended(t, known) for t in out]


def _token(word: str, start: int, end: int, *, glued: bool) -> Token:
    number = float(word) if word[0].isdecimal() and word.isascii() else _UNITS.get(word, _TENS.get(word))
    return Token(word, start, end, number, _ORDINALS.get(word), glued)


def _joined(raw: list[Token]) -> Iterable[Token]:
    """Numbers of two words ("twenty five", "a hundred and ten"), ordinals of two ("3" "rd"), notes ("16th")."""
    i = 0
    while i < len(raw):
        t, after = raw[i], raw[i + 1] if i + 1 < len(raw) else None
        if t.number is not None and after is not None:
            if after.glued and after.word in _SHORT_ORDINAL:
                yield Token(t.word + after.word, t.start, after.end, None, int(t.number), t.glued)
                i += 2
                continue
            if after.glued and after.word == "ths":
                yield Token(t.word + "ths", t.start, after.end, None, None, t.glued)
                i += 2
                continue
            if t.word in _TENS and after.word in _UNITS and 0 < (after.number or 0) < 10:
                yield Token(f"{t.word} {after.word}", t.start, after.end, t.number + (after.number or 0))
                i += 2
                continue
            if after.word == "hundred":
                rest = raw[i + 2 : i + 5]
                more = [r for r in rest if r.word != "and"][:1]
                if more and more[0].number is not None and more[0].number < 100:
                    skip = 2 + rest.index(more[0]) + 1
                    number, end = more[0].number, more[0].end
                    if more[0].word in _TENS and i + skip < len(raw) and 0 < (raw[i + skip].number or 0) < 10:
                        number, end, skip = number + (raw[i + skip].number or 0), raw[i + skip].end, skip + 1
                    yield Token("hundred", t.start, end, t.number * 100 + number)
                    i += skip
                    continue
                yield Token("hundred", t.start, after.end, t.number * 100)
                i += 2
                continue
        yield t
        i += 1


def _mended(t: Token, known: frozenset[str]) -> Token:
    if len(t.word) < 4 or t.number is not None or t.ordinal is not None or t.word in known:
        return t
    near = _nearest(t.word, known)
    if near is None:
        return t
    again = _token(near, t.start, t.end, glued=t.glued)
    return Token(near, t.start, t.end, again.number, again.ordinal, t.glued, t.word)


@lru_cache(maxsize=2048)
def _nearest(word: str, known: frozenset[str]) -> str | None:
    """The word that was meant: all letters but one or two, with the same first letter or one letter swapped."""
    least = 0.8 if len(word) > 5 else 0.75
    pool = [k for k in known if abs(len(k) - len(word)) <= 2 and len(k) > 3 and (k[0] == word[0] or k[1:2] == word[:1])]
    found = get_close_matches(word, pool, n=1, cutoff=least)
    return found[0] if found else None
