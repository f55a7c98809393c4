"""Sections and orders as they are written: "A B C x2 B | ending A"."""

import re
from collections import deque
from collections.abc import Sequence
from dataclasses import replace
from itertools import islice

from ghoststep.music.errors import InputError
from ghoststep.music.form import MAX_PLAYED, MAX_TIMES, Play, Section

NAME = r"[A-Za-z0-9][\w'.-]*"
_MOST_DEEP = 8  # brackets in brackets


def phrases_in(text: str) -> list[str]:
    """The phrases that stand with 'then' (or a semicolon) between them."""
    return [p for p in (x.strip() for x in re.split(r"\bthen\b|;", text)) if p]


def section_of(name: str, told: str) -> Section:
    """A section from its words: "A B C x2 B | ending A | ending B".

    Raises
    ------
    InputError
        Where an ending is written otherwise, or the row is none.
    """
    body, *endings = (x.strip() for x in told.split("|"))
    rows = []
    for ending in endings:
        word, _, rest = ending.partition(" ")
        if word != "ending" or not rest.strip():
            raise InputError(f"'| {ending}' is no ending: write it like '| ending A B'.")
        rows.append(plays_of(rest))
    return Section(name, plays_of(body), tuple(rows))


def plays_of(text: str) -> tuple[Play, ...]:
    """Names in order, each with how often, and groups of them: "A B C x2 (B C) x4".

    Raises
    ------
    InputError
        Where a word is no name, a bracket is left open, or more is played than a form holds.
    """
    words = deque(m[0] for m in islice(re.finditer(r"[()]|[^\s()]+", text), 4 * MAX_PLAYED + 1))
    if len(words) > 4 * MAX_PLAYED:
        raise InputError(f"An order plays at most {MAX_PLAYED} parts.")
    out = _plays(words, text)
    if words:
        raise InputError(f"A bracket is closed in '{_short(text)}' that was not opened: write it like '(B C) x4'.")
    if not out:
        raise InputError("An order names at least one part.")
    return tuple(out)


def _plays(words: deque[str], text: str, depth: int = 0) -> list[Play]:
    """Plays up to the bracket that closes; the words that are read are taken off the row."""
    if depth > _MOST_DEEP:
        raise InputError(f"Brackets stand in one another at most {_MOST_DEEP} deep.")
    out: list[Play] = []
    last: list[Play] = []  # what 'x2' repeats
    while words and words[0] != ")":
        word = words.popleft()
        times = re.fullmatch(r"x(\d{1,5})", word)
        if times and last:
            if not 1 <= int(times[1]) <= MAX_TIMES:
                raise InputError(f"'{word}' does not fit: x1 to x{MAX_TIMES}.")
            del out[-len(last) :]
            out += [replace(last[0], times=int(times[1]))] if len(last) == 1 else last * int(times[1])
            last = []
        elif word == "(":
            last = _plays(words, text, depth + 1)
            if not words or not last:
                raise InputError(f"A bracket in '{_short(text)}' is empty or stays open: write it like '(B C) x4'.")
            words.popleft()
            out += last
        elif re.fullmatch(NAME, word):
            last = [Play(word)]
            out += last
        else:
            raise InputError(f"'{word}' is no name and no 'x2': write it like 'A B C x2 B'.")
        if sum(p.times for p in out[-MAX_PLAYED - 1 :]) > MAX_PLAYED:
            raise InputError(f"An order plays at most {MAX_PLAYED} parts.")
    return out


def _short(text: str) -> str:
    return text if len(text) <= 60 else text[:57] + "..."


def plays_text(plays: Sequence[Play]) -> str:
    """What `plays_of` reads: "A B C x2 (B C) x4"."""
    out: list[str] = []
    at = 0
    while at < len(plays):
        size, times = _group_at(plays, at)
        told = " ".join(p.part if p.times == 1 else f"{p.part} x{p.times}" for p in plays[at : at + size])
        out.append(f"({told}) x{times}" if times > 1 else told)
        at += size * times
    return " ".join(out)


def _group_at(plays: Sequence[Play], at: int) -> tuple[int, int]:
    """How many plays from a place on are a group that repeats, and how often; (1, 1) where none does."""
    for size in range(2, min(16, (len(plays) - at) // 2) + 1):
        group = tuple(plays[at : at + size])
        times = 1
        while times < MAX_TIMES and tuple(plays[at + times * size : at + (times + 1) * size]) == group:
            times += 1
        if times > 1 and len(set(group)) > 1:
            return size, times
    return 1, 1
