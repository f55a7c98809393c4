"""Pattern + Feel -> Performance."""

import numpy as np
from numpy.typing import NDArray

from ghoststep.feel.looseness import deviations_ms
from ghoststep.feel.ornaments import spelled_out
from ghoststep.music.feel import Feel
from ghoststep.music.groove import Groove
from ghoststep.music.kit import METAL, STROKE_INDEX, VOICE_INDEX
from ghoststep.music.pattern import Hit
from ghoststep.music.performance import Performance


def feel_times_s(groove: Groove) -> NDArray[np.float64]:
    """Where the feel alone puts each hit of the pattern, in seconds from the first bar line; shape (n,).

    The hit's own deviation is not in it, so an onset minus this is what has to be kept with the hit.
    """
    hits = groove.pattern.hits
    ticks = np.array([h.position_ticks for h in hits], float)
    straight_s = groove.tempo.seconds(ticks)
    played_s = groove.tempo.seconds(_swung(groove, ticks))
    lean_s = np.array([groove.feel.lean_of(h.voice) for h in hits]) / 1000
    loose = deviations_ms(
        straight_s, [h.limb_letter for h in hits], loose_ms=groove.feel.loose_ms, take=groove.feel.take
    )
    out: NDArray[np.float64] = played_s + lean_s + loose / 1000
    return out


def _swung(groove: Groove, ticks: NDArray[np.float64]) -> NDArray[np.float64]:
    """Played ticks of all hits: the strokes of a roll divide the time from its start to its landing evenly."""
    swing, frame = groove.feel.swing, groove.pattern.frame
    out = swing.bend(ticks, frame)
    rolled = [(i, h.within) for i, h in enumerate(groove.pattern.hits) if h.within is not None]
    if rolled and not swing.straight:
        index = np.array([i for i, _ in rolled])
        start, end = np.array([w for _, w in rolled], float).T
        a, b = swing.bend(start, frame), swing.bend(end, frame)
        out[index] = a + (ticks[index] - start) / (end - start) * (b - a)
    return out


def perform(groove: Groove) -> Performance:
    """Play a groove: one hit for each stroke, in the order of `spelled_out(groove).pattern`.

    Without ornaments that is the order of the pattern's own hits.
    """
    groove = spelled_out(groove)
    hits: tuple[Hit, ...] = groove.pattern.hits
    own_s = np.array([h.offset_ms for h in hits], float) / 1000
    onset_s = feel_times_s(groove) + own_s if hits else np.zeros(0)
    return Performance.of(
        onset_s,
        [VOICE_INDEX[h.voice] for h in hits],
        _velocities(hits, groove.feel),
        stroke=[STROKE_INDEX[h.stroke] for h in hits],
        length_s=groove.length_s,
        stop_s=_stops_s(groove, onset_s),
    )


def _velocities(hits: tuple[Hit, ...], feel: Feel) -> list[int]:
    """The balance of voices moves levels, 40 dB to a tenfold velocity (see `music.touch.level_db`)."""
    if not feel.balance_db:
        return [h.velocity for h in hits]
    gain = {name: 10 ** (feel.balance_of(name) / 40) for name in VOICE_INDEX}
    return [min(max(round(h.velocity * gain[h.voice]), 1), 127) for h in hits]


def _stops_s(groove: Groove, onset_s: NDArray[np.float64]) -> NDArray[np.float64]:
    """When a hit's sound is ended by its own length, or by the end of a pattern that does not ring over; else inf."""
    hits = groove.pattern.hits
    stop_s = np.full(len(hits), np.inf)
    held = [i for i, h in enumerate(hits) if h.length_ticks]
    if held:
        ends = np.array([hits[i].position_ticks + hits[i].length_ticks for i in held], float)
        swung = groove.tempo.seconds(groove.feel.swing.bend(ends, groove.pattern.frame))
        lean = np.array([groove.feel.lean_of(hits[i].voice) for i in held]) / 1000
        stop_s[held] = np.maximum(swung + lean, onset_s[held])
    if not groove.pattern.rules.ring_over:
        metal = [i for i, h in enumerate(hits) if VOICE_INDEX[h.voice] in METAL]
        stop_s[metal] = np.minimum(stop_s[metal], np.maximum(groove.length_s, onset_s[metal]))
    return stop_s
