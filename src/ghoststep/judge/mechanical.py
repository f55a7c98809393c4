"""What gives a machine away: equal strokes in a row, copied bars, no spread, spread without memory."""

from collections.abc import Iterator

import numpy as np

from ghoststep.judge.finding import Finding
from ghoststep.judge.likeness import Deviations, copied_bars, deviations, doubles, memory_of, shared_of, spread
from ghoststep.judge.played import Played
from ghoststep.judge.words import the_voice
from ghoststep.music.touch import Role

_RUN, _BACKBEATS, _SECONDS, _BARS, _SPREAD = 8, 4, 4, 4, 16  # strokes or bars from which it is heard
_STRAIGHT_MS, _MEMORY_MS, _MEMORY_STROKES = 0.3, 2.0, 64
_A_PLAYER = "feel tight-studio"  # the mend of most: a player plays it
_ITS_TOUCH, _ITS_TIME = f"{_A_PLAYER} time 0%", f"{_A_PLAYER} touch 0%"


def mechanical(played: Played) -> Iterator[Finding]:
    """Every mechanical finding, told once for a voice or a part."""
    if not played.hits:
        return
    found = deviations(played)
    yield from _equal_strokes(played)
    yield from _same_bars(played, found)
    yield from _even_doubles(played, found)
    yield from _spread(played, found)


def _touched(name: str) -> tuple[str, ...]:
    """A player's touch for one voice, for all, or the whole player."""
    return f"{_ITS_TOUCH} for {name}", _ITS_TOUCH, _A_PLAYER


def _of(played: Played, name: str, tick: int, voices: tuple[str, ...], why: str, sure: float, *mends: str) -> Finding:
    bar = played.groove.pattern.frame.spot_at(tick).bar
    return Finding("mechanical", name, bar, tick, played.spot(tick), voices, why, sure, mends=mends)


def _equal_strokes(played: Played) -> Iterator[Finding]:
    """Runs of one velocity in a voice, and backbeats that are all alike."""
    s = played.sounded
    for name in dict.fromkeys(s.voices.tolist()):
        accents = s.of(name, Role.ACCENT)
        if name in ("snare", "cross_stick") and len(accents) >= _BACKBEATS and np.ptp(s.velocity[accents]) == 0:
            tick = int(s.ticks[accents[0]])
            why = f"All {len(accents)} accents of {the_voice(name)} have the velocity {s.velocity[accents[0]]:.0f}."
            yield _of(played, "equal backbeats", tick, (name,), why, 0.9, *_touched(name))
        mine = s.of(name)
        start, length = _longest_run(s.velocity[mine])
        if length >= _RUN:
            tick = int(s.ticks[mine[start]])
            why = f"{length} strokes of {the_voice(name)} in a row have the velocity {s.velocity[mine[start]]:.0f}."
            yield _of(played, "equal strokes", tick, (name,), why, 0.9, *_touched(name))


def _longest_run(values: np.ndarray) -> tuple[int, int]:
    """Start and length of the longest run of equal values."""
    if not len(values):
        return 0, 0
    edges = np.flatnonzero(np.diff(values)) + 1
    starts = np.concatenate([[0], edges])
    lengths = np.diff(np.concatenate([starts, [len(values)]]))
    k = int(lengths.argmax())
    return int(starts[k]), int(lengths[k])


def _same_bars(played: Played, d: Deviations) -> Iterator[Finding]:
    bars = len(np.unique(d.bars))
    share = copied_bars(d)
    if bars >= _BARS and share * bars >= _BARS - 1:
        number = round(share * bars)
        why = f"{number} of {bars} bars are an earlier bar again, to the last velocity and millisecond."
        yield _of(played, "same bars", 0, (), why, min(0.5 + share / 2, 1.0), _A_PLAYER)


def _even_doubles(played: Played, d: Deviations) -> Iterator[Finding]:
    pairs = doubles(d.sounded)
    velocity = d.sounded.velocity
    if len(pairs) >= _SECONDS and not any(velocity[b] < velocity[a] for a, b in pairs):
        first = pairs[0][0]
        name = d.sounded.hits[first].voice
        why = f"In {len(pairs)} doubles the second stroke is never the softer."
        yield _of(
            played, "even doubles", int(d.sounded.ticks[first]), (name,), why, 0.7, _ITS_TOUCH, f"even -40 on {name}"
        )


def _spread(played: Played, d: Deviations) -> Iterator[Finding]:
    number = len(d.sounded.hits)
    if number < _SPREAD:
        return
    ms = spread(d.time_ms)
    if ms < _STRAIGHT_MS and np.ptp(d.voice_ms) < 2 * _STRAIGHT_MS:
        why = f"All {number} strokes lie exactly where their voice lies: a spread of {ms:.1f} ms."
        yield _of(played, "no spread", 0, (), why, 0.9, _ITS_TIME, _A_PLAYER)
        return
    memory, pairs = memory_of(d)
    shared, together = shared_of(d)
    if ms > _MEMORY_MS and pairs >= _MEMORY_STROKES and memory < 2 / np.sqrt(pairs) and (
        together < 12 or shared < 2 / np.sqrt(together)
    ):  # fmt: skip
        why = (
            f"Strokes stray by {ms:.1f} ms, each on its own: no drift from stroke to stroke ({memory:.2f}) and none"
            f" that limbs share ({shared:.2f}), as dice would."
        )
        yield _of(played, "no memory", 0, (), why, 0.7, f"pull 100%;{_ITS_TIME}")
