"""Sections and orders as they are written: "A B C x2 B | ending A"."""

import re
from dataclasses import replace

from ghoststep.music.errors import InputError
from ghoststep.music.form import MAX_TIMES, Play, Section

NAME = r"[A-Za-z0-9][\w'.-]*"


def section_of(name: str, told: str) -> Section:
    """A section from its words: "A B C x2 B | ending A | ending B"."""
    body, *endings = (x.strip() for x in told.split("|"))
    rows = []
    for ending in endings:
        word, _, rest = ending.partition(" ")
        if word != "ending" or not rest.strip():
            raise InputError(f"'| {ending}' is no ending: write it like '| ending A B'.")
        rows.append(plays_of(rest))
    return Section(name, plays_of(body), tuple(rows))


def plays_of(text: str) -> tuple[Play, ...]:
    """Names in order, each with how often: "A B C x2 B"."""
    out: list[Play] = []
    for word in text.split():
        times = re.fullmatch(r"x(\d{1,5})", word)
        if times and out:
            if not 1 <= int(times[1]) <= MAX_TIMES:
                raise InputError(f"'{word}' does not fit: x1 to x{MAX_TIMES}.")
            out[-1] = replace(out[-1], times=int(times[1]))
        elif re.fullmatch(NAME, word):
            out.append(Play(word))
        else:
            raise InputError(f"'{word}' is no name and no 'x2': write it like 'A B C x2 B'.")
    if not out:
        raise InputError("An order names at least one part.")
    return tuple(out)
