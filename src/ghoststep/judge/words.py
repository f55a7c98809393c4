"""How findings speak: voices in a sentence, bars in a row, and spots as the language reads them back."""

from collections.abc import Iterable, Sequence

from ghoststep.judge.played import Played
from ghoststep.music.kit import voice
from ghoststep.music.pattern import Hit
from ghoststep.music.spots import exact_name


def the_voice(name: str) -> str:
    """The voice in a sentence: "the closed hat", "the low tom"."""
    return f"the {plain(name)}"


def plain(name: str) -> str:
    """A voice's label as one says it: "low tom", "closed hat"."""
    words = voice(name).label.lower().split()
    return " ".join(reversed(words)) if len(words) == 2 and words[0] in ("tom", "hat") else " ".join(words)


def listed(hits: Sequence[Hit]) -> str:
    """Voices in a row: "the crash, the snare and the closed hat"."""
    names = [the_voice(h.voice) for h in hits]
    return names[0] if len(names) == 1 else f"{', '.join(names[:-1])} and {names[-1]}"


def runs(numbers: Iterable[int]) -> str:
    """ "2-4, 8": rising numbers, neighbours drawn together."""
    out: list[list[int]] = []
    for n in sorted(set(numbers)):
        if out and n == out[-1][1] + 1:
            out[-1][1] = n
        else:
            out.append([n, n])
    return ", ".join(f"{a}" if a == b else f"{a}-{b}" for a, b in out)


def began(text: str) -> str:
    """The same words as the beginning of a sentence."""
    return text[:1].upper() + text[1:]


def at_words(played: Played, tick: int) -> str:
    """A place as the language reads it: "at 2& bars 3"."""
    frame = played.groove.pattern.frame
    spot = frame.spot_at(tick)
    name = played.spot(tick)
    if "." in name:  # not a counted place: exactly, in decimals or as a fraction
        name = exact_name(spot.tick, frame.meter_at(tick))
    return f"at {name} bars {spot.bar}"
