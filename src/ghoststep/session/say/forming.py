"""Sentences about the form: bars that get a name, and the order in which named sections are played."""

import re

from ghoststep.music.form import Form
from ghoststep.session.language.edit_context import EditContext
from ghoststep.session.say.places import InBars
from ghoststep.session.say.reading_places import Words, bars_at
from ghoststep.session.say.sense import MissingError, Reading
from ghoststep.session.say.tokens import Token

_CALLS = ("call", "name", "make")
_SMALL = (
    "play",
    "the",
    "then",
    "and",
    ",",
    "first",
    "please",
    "now",
    "a",
    ";",
    "followed",
    "by",
    "once",
    "form",
    "song",
    ":",
)
_TIMES = {"twice": 2, "once": 1, "again": 1}
_NAME = re.compile(r"[a-z][a-z0-9_-]{0,30}")
REST = "rest"


def form_said(context: EditContext, tokens: list[Token]) -> Reading | None:
    """What a sentence says of the form; None where it says nothing of it.

    Raises
    ------
    MissingError
        Where bars cannot get a name.
    """
    return _called(context, tokens) or _ordered(context.document.form, tokens)


def _called(context: EditContext, tokens: list[Token]) -> Reading | None:
    """ "call bars 1 and 2 the verse"."""
    words = Words(tokens)
    if words.word(0) not in _CALLS:
        return None
    found = bars_at(words, 1)
    if found is None or not isinstance(found[0], InBars):
        return None
    rest = [t.word for t in tokens[words.past(found[1], ("the", "a", "as", ":")) :]]
    if len(rest) != 1 or not _NAME.fullmatch(rest[0]) or rest[0] in ("fill", "like", "empty"):
        return None
    bars = sorted(found[0].among(context.document.groove.pattern.bars, context.bar))
    if not bars or bars[-1] > context.document.groove.pattern.bars or len(bars) != bars[-1] - bars[0] + 1:
        raise MissingError("Name bars that follow one another and are there.")
    phrases = _new_form(context, bars, rest[0]) if context.document.form is None else _renamed(context, bars, rest[0])
    return Reading(f"Bars {bars[0]}-{bars[-1]} are the {rest[0]}", tuple(phrases), 1.2)


def _new_form(context: EditContext, bars: list[int], name: str) -> list[str]:
    """A form of a groove that has none: what is named, and before and behind it the rest, as parts of their own."""
    last = context.document.groove.pattern.bars
    spans = [
        (1, bars[0] - 1, f"{REST}-before" if bars[-1] < last else REST),
        (bars[0], bars[-1], name),
        (bars[-1] + 1, last, REST),
    ]
    spans = [s for s in spans if s[0] <= s[1]]
    letters = "ABC"
    out = [
        f"part {letters[k]} bars {a}-{b}" if b > a else f"part {letters[k]} bars {a}"
        for k, (a, b, _) in enumerate(spans)
    ]
    out += [f"section {said} = {letters[k]}" for k, (_, _, said) in enumerate(spans)]
    return [*out, f"form {' '.join(said for _, _, said in spans)}"]


def _renamed(context: EditContext, bars: list[int], name: str) -> list[str]:
    """Another name for a section that has just these bars."""
    form = context.document.form
    assert form is not None
    for played in form.passes:
        if (played.body_bar, played.last_bar) == (bars[0], bars[-1]):
            old = played.section
            order = [name if s.name == old.name else s.name for s in form.played]
            return [f"section {name} = {' '.join(old.row)}", f"form {' '.join(order)}"]
    raise MissingError("These bars are no section of their own: parts and sections stand in Form.")


def _ordered(form: Form | None, tokens: list[Token]) -> Reading | None:
    """ "play the verse twice, then the chorus"."""
    if form is None:
        return None
    names = {s.name.lower(): s.name for s in form.sections}
    row: list[str] = []
    for k, token in enumerate(tokens):
        word = token.word
        if word in names:
            row.append(names[word])
        elif row and word in _TIMES:
            row += [row[-1]] * (_TIMES[word] - 1)
        elif row and token.number and k + 1 < len(tokens) and tokens[k + 1].word == "times":
            row += [row[-1]] * (min(int(token.number), 64) - 1)
        elif word not in (*_SMALL, "times"):
            return None
    if len(row) < 2:
        return None
    return Reading(f"The form: {', '.join(row)}", (f"form {' '.join(row)}",), 1.2)
