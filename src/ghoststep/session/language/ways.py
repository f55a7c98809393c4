"""Ways on from a groove, tried before they are offered: the same rhythm on other voices, layers, time lines.

Each is a few phrases of the language. One that does nothing here is not offered; one that brings strokes nobody can
play is, and says so.
"""

from collections.abc import Iterable
from dataclasses import dataclass

from ghoststep.craft.layers import LAYERS
from ghoststep.craft.timelines import SIDES, TIME_LINES
from ghoststep.judge.check import impossible
from ghoststep.music.errors import InputError
from ghoststep.session.language.doing import do
from ghoststep.session.language.edit_context import EditContext
from ghoststep.session.words import count


@dataclass(frozen=True)
class Way:
    """about: in words; phrases: what is done, one after another."""

    about: str
    phrases: tuple[str, ...]


@dataclass(frozen=True)
class Tried:
    """A way that was gone: its words, what it says for the undo step, and where it leads."""

    about: str
    words: str
    context: EditContext


# By limb, by role, by part of the bar, and voice by voice.
REVOICINGS = (
    Way("the right hand on the ride", ("revoice to ride on limb R",)),
    Way("the right hand on the low tom", ("revoice to tom_low on limb R",)),
    Way("the left hand round high tom, snare and hat", ("revoice to tom_high snare hat_closed on limb L",)),
    Way("accents on the toms, the rest of the snare ghosts",
        ("role ghost on snare normals", "revoice to tom_high tom_low on snare accents")),
    Way("accents on the rim, the rest of the snare ghosts",
        ("role ghost on snare normals", "revoice to cross_stick on snare accents")),
    Way("the hat on the bell from beat 3 on", ("revoice to ride_bell on hat beats 3-4",)),
    Way("the hat in the first half, the ride in the second", ("revoice to ride on hat beats 3-4",)),
    Way("hat and low tom in turn", ("revoice to hat_closed tom_low on hat",)),
    Way("the snare on the high tom", ("revoice to tom_high on snare",)),
)  # fmt: skip


def layers() -> list[Way]:
    """What a hand or a foot may play through, and the time lines, each on its usual voice and side."""
    out = [Way(x.about, (f"lay {x.name}",)) for x in LAYERS]
    for line in TIME_LINES:
        for side in SIDES if line.turns else ("",):
            by = f" side {side}" if side else ""
            told = f"{side + ' ' if side else ''}{line.name.replace('-', ' ')} on the cross-stick"
            out.append(Way(told, (f"time-line {line.name} with cross_stick{by}",)))
    return out


def tried(context: EditContext, ways: Iterable[Way]) -> list[Tried]:
    """The ways that lead somewhere, in their order."""
    terms = context.document.judged.terms
    hard = impossible(context.document.groove, terms)
    out = []
    for way in ways:
        after, words = context, []
        try:
            for phrase in way.phrases:
                said, after = _done(after, phrase)
                words += said
        except InputError:  # there are no such hits here
            continue
        if after.document.groove.pattern == context.document.groove.pattern:
            continue
        more = impossible(after.document.groove, terms) - hard
        told = f" ({count(more, 'spot')} nobody can play)" if more > 0 else ""
        out.append(Tried(f"{way.about[:1].upper()}{way.about[1:]}{told}", "; ".join(words), after))
    return out


def _done(context: EditContext, phrase: str) -> tuple[list[str], EditContext]:
    """A phrase done; a role that no hit has is passed over, since the rest of a way may still hold."""
    try:
        words, after = do(context, phrase)
    except InputError:
        if not phrase.startswith("role "):
            raise
        return [], context
    return [words], after
