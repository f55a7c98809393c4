"""Which hits are meant: "snare ghosts bars 2-4", "hat_open at & of 4", "kick 2", "hat under every crash", "everything".

Words of one kind are alternatives ("kick snare"), words of different kinds narrow it down; "also" joins two targets:
"kick 1 bars 2 also snare 4".
"""

from collections.abc import Callable
from dataclasses import dataclass, field, replace
from difflib import get_close_matches

from ghoststep.music.errors import InputError
from ghoststep.music.frame import Bars
from ghoststep.music.kit import LANES, LIMB_LETTERS, STROKE_NAMES, VOICE_NAMES
from ghoststep.music.ornaments import ORNAMENT_INDEX
from ghoststep.music.pattern import Hit
from ghoststep.music.spots import parse_spot
from ghoststep.music.touch import Role
from ghoststep.session.language.arguments import bars_of, number, numbers
from ghoststep.session.language.edit_context import EditContext
from ghoststep.session.language.spot_words import Spots, spots_in
from ghoststep.session.language.voice_words import voices_named

_ROLES = {f"{role.value}{s}": role for role in Role for s in ("", "s")}
_KEYWORDS = ("bar", "bars", "beat", "beats", "at", "limb", "stroke", "ornament", "louder", "softer", "under", "every")
ALSO = "also"
_EVERYTHING = ("everything", "all", "hits", "hit", "each")


@dataclass
class _Wanted:
    voices: set[str] = field(default_factory=set)
    roles: set[Role] = field(default_factory=set)
    tests: list[Callable[[Hit], bool]] = field(default_factory=list)
    chosen_only: bool = False


def target(context: EditContext, words: list[str]) -> EditContext:
    """The stand with those hits chosen that are meant; none may be.

    Raises
    ------
    InputError
        Naming the word that means nothing.
    """
    if not words:
        raise InputError("Say which hits are meant, for example: snare ghosts bars 2-4.")
    if ALSO in words:
        cut = words.index(ALSO)
        parts = (target(context, words[:cut]), target(context, words[cut + 1 :]))
        return replace(context, chosen=parts[0].chosen | parts[1].chosen)
    wanted, rest = _Wanted(), list(words)
    while rest:
        rest = _word(rest, wanted, context)
    pool = context.hits if wanted.chosen_only else context.document.groove.pattern.hits
    return context.choosing([h for h in pool if _fits(h, wanted)])


def begins_target(word: str) -> bool:
    """Whether a word can be the first of a target."""
    plain = word.lower().strip(",")
    return plain in (*_ROLES, *_EVERYTHING, *_KEYWORDS, "chosen", "lane", "graces") or voices_named(plain) is not None


def _fits(h: Hit, wanted: _Wanted) -> bool:
    if wanted.voices and h.voice not in wanted.voices:
        return False
    if wanted.roles and h.role not in wanted.roles:
        return False
    return all(test(h) for test in wanted.tests)


def _word(words: list[str], wanted: _Wanted, context: EditContext) -> list[str]:
    """Read what the words begin with; the rest."""
    word, rest = words[0].lower().strip(","), words[1:]
    two = voices_named("_".join(words[:2])) if len(words) > 1 else None
    if word in _EVERYTHING:
        return rest
    if word == "chosen":
        wanted.chosen_only = True
    elif word in _ROLES:
        wanted.roles.add(_ROLES[word])
    elif two is not None:
        wanted.voices |= set(two)
        return words[2:]
    elif (found := voices_named(word)) is not None:
        wanted.voices |= set(found)
    elif word == "lane":
        wanted.voices |= set(LANES[context.lane].voices)
    elif word == "graces":
        wanted.tests.append(lambda h: h.grace)
    elif (spots := spots_in(words)[0]) is not None:
        _at(spots, wanted, context)
        return spots_in(words)[1]
    elif word in _KEYWORDS:
        return _narrowed(word, rest, wanted, context)
    else:
        near = get_close_matches(word, (*VOICE_NAMES, *_ROLES, *_KEYWORDS), n=1)
        hint = f" Did you mean {near[0]}?" if near else ""
        raise InputError(
            f"'{words[0]}' names no hits: use a voice, a role, 'bars 2-4', 'at & of 4', 'limb L' ...{hint}"
        )
    return rest


def _at(spots: Spots, wanted: _Wanted, context: EditContext) -> None:
    pattern = context.document.groove.pattern
    for name in spots.names:  # a spot that no bar has is a mistake and no empty choice
        _somewhere(name, context)
    wanted.tests.append(lambda h: spots.fits(h, pattern.frame, pattern.grid_at(h.voice, h.position_ticks)))


def _somewhere(name: str, context: EditContext) -> None:
    """An InputError where no meter of the groove has such a spot."""
    pattern = context.document.groove.pattern
    trouble: InputError | None = None
    for meter in {pattern.meter, *(m for _, m in pattern.meter_changes)}:
        try:
            parse_spot(name, Bars(meter), pattern.grid)
        except InputError as error:
            trouble = error
        else:
            return
    assert trouble is not None
    raise trouble


def _narrowed(word: str, words: list[str], wanted: _Wanted, context: EditContext) -> list[str]:
    pattern = context.document.groove.pattern
    if not words:
        raise InputError(f"Something has to follow '{word}'.")
    value, rest = words[0].lower(), words[1:]
    frame = pattern.frame
    if word == "every":  # "every crash"
        return words
    if word == "under":
        above = {h.position_ticks for h in target(context, words).hits}
        wanted.tests.append(lambda h: h.position_ticks in above)
        return []
    if word == "at":
        spots, rest = spots_in(words)
        if spots is None:
            raise InputError(f"'{' '.join(words)}' names no spot: write it like 2a, the & of 3, 2.75 or step 8.")
        _at(spots, wanted, context)
        return rest
    if word in ("bar", "bars"):
        bars = {context.bar} if value == "here" else bars_of(value, pattern)
        wanted.tests.append(lambda h: frame.spot_at(h.position_ticks).bar in bars)
    elif word in ("beat", "beats"):
        beats = {frame.beat_at(context.cursor_ticks)} if value == "here" else numbers(value, "beats")
        wanted.tests.append(lambda h: frame.beat_at(h.position_ticks) in beats)
    else:
        wanted.tests.append(_feature(word, value))
    return rest


def _feature(word: str, value: str) -> Callable[[Hit], bool]:
    """A test of one feature of a hit."""
    if word == "limb":
        letter = value.upper()
        if letter not in LIMB_LETTERS:
            raise InputError(f"'{value}' is no limb: use R, L, K or H.")
        return lambda h: h.limb_letter == letter
    if word == "stroke":
        if value not in STROKE_NAMES:
            raise InputError(f"'{value}' is no stroke. The strokes are: {', '.join(STROKE_NAMES)}.")
        return lambda h: h.stroke == value
    if word == "ornament":
        if value not in ORNAMENT_INDEX and value != "any":
            raise InputError(f"'{value}' is no ornament. The ornaments are: {', '.join(ORNAMENT_INDEX)}.")
        return lambda h: bool(h.ornament) if value == "any" else h.ornament == value
    limit = number([value], "a velocity")
    return lambda h: h.velocity > limit if word == "louder" else h.velocity < limit
