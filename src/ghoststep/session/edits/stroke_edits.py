"""Strokes, ornaments and lengths of hits: what fits a voice, and what would run into something else."""

from collections.abc import Callable, Sequence
from dataclasses import replace

from ghoststep.feel.ornaments import landing_ticks
from ghoststep.music.errors import InputError
from ghoststep.music.kit import STROKE_INDEX, STROKES, strokes_of, voice, voices_of, with_trait
from ghoststep.music.ornaments import ORNAMENTED_GROUPS, ornament
from ghoststep.music.pattern import Hit, Pattern
from ghoststep.music.time import TICKS_PER_WHOLE
from ghoststep.session.document.document import Document
from ghoststep.session.edits.hit_edits import NOTHING_CHOSEN, Edit, each, hit_name, named

_HATS = frozenset(voices_of("hat"))
_RINGING = with_trait("rings")


def _where(document: Document, hits: Sequence[Hit], fits: Callable[[Hit], bool], refusal: str) -> list[Hit]:
    """The hits that can take it; none is an InputError."""
    found = [h for h in hits if fits(h)]
    if hits and not found:
        raise InputError(refusal)
    return found


def set_stroke(document: Document, hits: Sequence[Hit], name: str) -> Edit:
    """Another way of striking, for those hits whose voice has it.

    Raises
    ------
    InputError
        Where there is no such stroke.
    """
    if name not in STROKE_INDEX:
        raise InputError(f"'{name}' is no stroke. The strokes are: {', '.join(STROKE_INDEX)}.")
    stroke = STROKES[STROKE_INDEX[name]]
    there = ", ".join(voice(v).label.lower() for v in stroke.voices)
    found = _where(
        document, hits, lambda h: h.voice in stroke.voices, f"The stroke {stroke.label} is played on: {there}."
    )
    old, new = each(document, found, lambda h: replace(h, stroke=name))
    return f"{named(old, document)}: {stroke.label}", new


def next_stroke(document: Document, hits: Sequence[Hit]) -> Edit:
    """The next way of striking that the first hit's voice has, for all of that voice.

    Raises
    ------
    InputError
        Where nothing is chosen, or the voice has no other.
    """
    if not hits:
        raise InputError(NOTHING_CHOSEN)
    known = [s.name for s in strokes_of(hits[0].voice)]
    if len(known) == 1:
        raise InputError(f"{voice(hits[0].voice).label} has one stroke only.")
    at = known.index(hits[0].stroke) if hits[0].stroke in known else 0
    return set_stroke(document, [h for h in hits if h.voice == hits[0].voice], known[(at + 1) % len(known)])


def set_ornament(document: Document, hits: Sequence[Hit], name: str) -> Edit:
    """Flam, drag, ruff, double or a roll; "" takes it off."""
    if not name:
        old, new = each(document, hits, lambda h: replace(h, ornament="", length_ticks=_kept_length(h)))
        return f"{named(old, document)}: no ornament", new
    label = ornament(name).label
    found = _where(
        document,
        hits,
        lambda h: voice(h.voice).group in ORNAMENTED_GROUPS and not h.grace,
        f"A {label} is played with sticks on a drum: snare, cross-stick or toms.",
    )
    old, new = each(document, found, lambda h: replace(h, ornament=name, length_ticks=0))
    _check_overlaps(new, [replace(h, ornament=name, length_ticks=0) for h in old])
    return f"{named(old, document)}: {label}", new


def _kept_length(h: Hit) -> int:
    return h.length_ticks if h.voice in _RINGING else 0


def set_length(document: Document, hits: Sequence[Hit], ticks: int) -> Edit:
    """When an open hat closes, a cymbal is choked or a roll lands; 0 lets it ring.

    Raises
    ------
    InputError
        Where the length is none that a hit can have.
    """
    if ticks < 0 or ticks > 64 * TICKS_PER_WHOLE:
        raise InputError("A length lies between nothing (it rings) and 64 whole notes.")
    found = _where(
        document,
        hits,
        lambda h: h.voice in _RINGING or bool(h.ornament and ornament(h.ornament).rolls),
        "A length needs something that rings: a cymbal to choke, an open hat to close, or a roll to land.",
    )
    old, new = each(document, found, lambda h: replace(h, length_ticks=ticks))
    _check_overlaps(new, [replace(h, length_ticks=ticks) for h in old if h.ornament])
    word = "choked" if old and voice(old[0].voice).group == "cymbals" else "lasts"
    length = f"{word} after {_note(ticks)}" if word == "choked" else f"{word} {_note(ticks)}"
    return f"{named(old, document)}: {length if ticks else 'rings'}", new


def _note(ticks: int) -> str:
    """A length as a share of the whole note."""
    from fractions import Fraction

    return str(Fraction(ticks, TICKS_PER_WHOLE))


def _check_overlaps(document: Document, changed: Sequence[Hit]) -> None:
    """A roll must not run over another hit of its drum, nor into another roll."""
    pattern = document.groove.pattern
    for h in changed:
        if not h.ornament or not ornament(h.ornament).rolls:
            continue
        landing = landing_ticks(h, pattern)
        if landing > pattern.length_ticks:
            raise InputError(
                f"The {ornament(h.ornament).label} on {hit_name(h, pattern.frame)} would outlast the groove."
            )
        for i in pattern.between(h.position_ticks + 1, landing):
            other = pattern.hits[i]
            if other.voice == h.voice and not other.grace:
                raise InputError(
                    f"The {ornament(h.ornament).label} on {hit_name(h, pattern.frame)} would run over"
                    f" {hit_name(other, pattern.frame)}: make it shorter, or take that hit away first."
                )
        for i in pattern.between(0, h.position_ticks):
            other = pattern.hits[i]
            rolls = other.ornament and ornament(other.ornament).rolls
            if rolls and other.voice == h.voice and landing_ticks(other, pattern) > h.position_ticks:
                raise InputError(f"{hit_name(other, pattern.frame)} is a roll that still goes on there.")


def closings(pattern: Pattern, low: float, high: float) -> dict[int, tuple[int, str]]:
    """Where the hits between two positions end and by what: index -> (position in ticks, by what).

    Ended are open hats ("foot", or "stroke" where another hat stroke closes them), choked cymbals ("hand") and rolls
    ("landing"). What nothing ends within two bars is left out.
    """
    found = pattern.between(low, high + 2 * pattern.frame.meter_at(high).bar_ticks)
    out: dict[int, tuple[int, str]] = {}
    following: int | None = None
    for i in reversed(found):
        h = pattern.hits[i]
        if h.voice not in _HATS and not h.length_ticks and not h.ornament:
            continue  # nothing ends it and it ends nothing: the usual case
        ends = []
        if h.ornament and ornament(h.ornament).rolls:
            ends.append((landing_ticks(h, pattern), "landing"))
        elif h.length_ticks:
            by = "hand" if voice(h.voice).group == "cymbals" else "foot"
            ends.append((h.position_ticks + h.length_ticks, by))
        if h.voice in ("hat_open", "hat_half") and following is not None and following > h.position_ticks:
            ends.append((following, "stroke"))
        if ends and h.position_ticks <= high:
            out[i] = min(ends)
        if h.voice in _HATS and (following is None or h.position_ticks < following):
            following = h.position_ticks
    return out
