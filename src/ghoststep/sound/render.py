"""A performance made into stereo sound, every hit on the nearest sample.

Steps: (1) the end of each ringing sound is found from what chokes it; (2) each hit's blow is taken from the kit with
dice seeded by the hit's place in the performance; (3) it is added to the left and right sum.
"""

from collections.abc import Callable, Iterable

import numpy as np
from numpy.typing import NDArray

from ghoststep.music.kit import VOICES
from ghoststep.music.performance import Performance
from ghoststep.sound.kit import Kit

Stereo = NDArray[np.float32]
CHOKE_FADE_S = 0.012
TAIL_LIMIT_S = 4.0


def choke_times_s(performance: Performance) -> NDArray[np.float64]:
    """When each hit's sound is ended by another hit, inf where nothing ends it; shape (n,)."""
    ends = np.full(len(performance), np.inf)
    names = np.array([v.name for v in VOICES])[performance.voice] if len(performance) else np.array([], str)
    for voice in (v for v in VOICES if v.choked_by):
        stops = np.sort(performance.onset_s[np.isin(names, voice.choked_by)])
        mine = np.flatnonzero(names == voice.name)
        following = np.searchsorted(stops, performance.onset_s[mine], side="right")
        inside = following < len(stops)
        ends[mine[inside]] = stops[following[inside]]
    return ends


def render(
    performance: Performance,
    kit: Kit,
    *,
    lead_s: float = 0.0,
    voices: Iterable[str] | None = None,
    length_s: float | None = None,
    progress: Callable[[float], None] = lambda share: None,
) -> Stereo:
    """Stereo samples, shape (n, 2), peak not limited.

    Parameters
    ----------
    lead_s
        Time added before 0, so that early hits of the first beat are not cut.
    voices
        Only these voices sound (the others still choke), for stems; None is all.
    length_s
        Exact length after the lead; None lets the last hit ring out.
    progress
        Called with 0 to 1; may raise to stop.
    """
    wanted = None if voices is None else set(voices)
    starts = np.rint((performance.onset_s + lead_s) * kit.rate).astype(int)
    ends = choke_times_s(performance) + lead_s
    room_s = TAIL_LIMIT_S if length_s is None else length_s - performance.length_s
    total = max(0, round((lead_s + performance.length_s + room_s) * kit.rate))
    left, right = np.zeros(total, np.float32), np.zeros(total, np.float32)
    last = 0
    for i in range(len(performance)):
        voice = VOICES[performance.voice[i]].name
        if wanted is not None and voice not in wanted:
            continue
        rng = np.random.default_rng([i, int(performance.voice[i])])
        blow = kit.blow(voice, int(performance.velocity[i]), rng)
        if np.isfinite(ends[i]):
            blow = _choked(blow, round(ends[i] * kit.rate) - int(starts[i]), kit.rate)
        skip = max(0, -int(starts[i]))
        start = int(starts[i]) + skip
        blow = blow[skip : skip + max(0, total - start)]
        gain_left, gain_right = kit.gains(voice)
        left[start : start + len(blow)] += gain_left * blow
        right[start : start + len(blow)] += gain_right * blow
        last = max(last, start + len(blow))
        if i % 64 == 0:
            progress(i / len(performance))
    if length_s is None:
        last = max(last, round((lead_s + performance.length_s) * kit.rate))
        left, right = left[:last], right[:last]
    return np.stack([left, right], axis=1)


def _choked(blow: NDArray[np.float32], length: int, rate: int) -> NDArray[np.float32]:
    fade = round(CHOKE_FADE_S * rate)
    if length + fade >= len(blow):
        return blow
    cut = blow[: length + fade].copy()
    cut[length:] *= np.linspace(1, 0, fade, dtype=np.float32)
    return cut
