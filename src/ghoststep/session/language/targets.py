"""Which hits are meant: "snare ghosts bars 2-4", "hat_open at & of 4", "everything".

Words of one kind are alternatives ("kick snare"), words of different kinds narrow it down.
"""

from collections.abc import Callable
from dataclasses import dataclass, field

from ghoststep.music.errors import InputError
from ghoststep.music.kit import GROUPS, LANES, LIMB_LETTERS, STROKE_NAMES, VOICE_INDEX, voices_of
from ghoststep.music.ornaments import ORNAMENT_INDEX
from ghoststep.music.pattern import Hit, Pattern
from ghoststep.music.spots import parse_spot
from ghoststep.music.touch import Role
from ghoststep.session.language.arguments import bars_of, number, numbers
from ghoststep.session.language.language import Stand

_ROLES = {f"{role.value}{s}": role for role in Role for s in ("", "s")}
_LANES = {lane.label.lower().replace(" ", "-"): set(lane.voices) for lane in LANES}
_KEYWORDS = ("bar", "bars", "beat", "beats", "at", "limb", "stroke", "ornament", "louder", "softer", "lane")
_EVERYTHING = ("everything", "all", "every", "hits", "hit")


@dataclass
class _Wanted:
    voices: set[str] = field(default_factory=set)
    roles: set[Role] = field(default_factory=set)
    tests: list[Callable[[Hit], bool]] = field(default_factory=list)
    chosen_only: bool = False


def target(stand: Stand, words: list[str]) -> frozenset[int]:
    """Indices of the hits that are meant.

    Raises
    ------
    InputError
        Naming the word that means nothing.
    """
    if not words:
        raise InputError("Say which hits are meant, for example: snare ghosts bars 2-4.")
    pattern = stand.document.groove.pattern
    wanted, at = _Wanted(), 0
    while at < len(words):
        at = _word(words, at, wanted, stand)
    pool = sorted(stand.chosen) if wanted.chosen_only else range(len(pattern.hits))
    return frozenset(i for i in pool if i < len(pattern.hits) and _fits(pattern.hits[i], wanted))


def _fits(h: Hit, wanted: _Wanted) -> bool:
    if wanted.voices and h.voice not in wanted.voices:
        return False
    if wanted.roles and h.role not in wanted.roles:
        return False
    return all(test(h) for test in wanted.tests)


def _word(words: list[str], at: int, wanted: _Wanted, stand: Stand) -> int:
    """Read what begins at a word; where the next begins."""
    word = words[at].lower().strip(",")
    if word in _EVERYTHING:
        return at + 1
    if word == "chosen":
        wanted.chosen_only = True
    elif word in _ROLES:
        wanted.roles.add(_ROLES[word])
    elif word in _LANES:
        wanted.voices |= _LANES[word]
    elif word in VOICE_INDEX or word in GROUPS:
        wanted.voices |= set(voices_of(word))
    elif word in ("hats", "kicks", "snares", "rides", "crashes"):
        singular = {"crashes": "crash"}.get(word, word[:-1])
        wanted.voices |= set(voices_of(singular))
    elif word == "lane":
        wanted.voices |= set(LANES[stand.lane].voices)
    elif word == "graces":
        wanted.tests.append(lambda h: h.grace)
    elif word in _KEYWORDS:
        return _narrowed(word, words, at + 1, wanted, stand)
    else:
        raise InputError(f"'{words[at]}' names no hits: use a voice, a role, 'bars 2-4', 'at & of 4', 'limb L' ...")
    return at + 1


def _narrowed(word: str, words: list[str], at: int, wanted: _Wanted, stand: Stand) -> int:
    pattern = stand.document.groove.pattern
    if at >= len(words):
        raise InputError(f"Something has to follow '{word}'.")
    value = words[at].lower()
    bar, unit = pattern.meter.bar_ticks, pattern.meter.unit_ticks
    if word == "at":
        return _spots(words, at, wanted, pattern)
    if word in ("bar", "bars"):
        bars = {stand.bar} if value == "here" else bars_of(value, pattern)
        wanted.tests.append(lambda h: h.position_ticks // bar + 1 in bars)
    elif word in ("beat", "beats"):
        here = stand.cursor_ticks % bar // unit + 1
        beats = {here} if value == "here" else numbers(value, "beats")
        wanted.tests.append(lambda h: h.position_ticks % bar // unit + 1 in beats)
    elif word == "limb":
        letter = value.upper()
        if letter not in LIMB_LETTERS:
            raise InputError(f"'{value}' is no limb: use R, L, K or H.")
        wanted.tests.append(lambda h: h.limb_letter == letter)
    elif word == "stroke":
        if value not in STROKE_NAMES:
            raise InputError(f"'{value}' is no stroke. The strokes are: {', '.join(STROKE_NAMES)}.")
        wanted.tests.append(lambda h: h.stroke == value)
    elif word == "ornament":
        if value not in ORNAMENT_INDEX and value != "any":
            raise InputError(f"'{value}' is no ornament. The ornaments are: {', '.join(ORNAMENT_INDEX)}.")
        wanted.tests.append(lambda h: bool(h.ornament) if value == "any" else h.ornament == value)
    else:
        limit = number([value], "a velocity")
        louder = word == "louder"
        wanted.tests.append(lambda h: h.velocity > limit if louder else h.velocity < limit)
    return at + 1


def _spots(words: list[str], at: int, wanted: _Wanted, pattern: Pattern) -> int:
    """ "2a, 4e" or "the & of 4": up to the next word that says something else."""
    end = at
    while end < len(words) and words[end].lower().strip(",") not in _KEYWORDS and not _says_more(words[end]):
        end += 1
    text = " ".join(words[at:end])
    ticks = {parse_spot(part, pattern.meter, pattern.grid).tick for part in text.split(",") if part.strip()}
    bar = pattern.meter.bar_ticks
    wanted.tests.append(lambda h: h.position_ticks % bar in ticks)
    return end


def _says_more(word: str) -> bool:
    plain = word.lower().strip(",")
    return plain in _ROLES or plain in VOICE_INDEX or plain in GROUPS or plain == "chosen"
