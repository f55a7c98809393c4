"""A performance made into stereo sound, every hit on the nearest sample.

Steps: (1) the end of each ringing sound is found from what chokes it; (2) each hit becomes a strike, whose dice are
seeded by its moment and voice, so that a hit sounds the same whatever else is changed; (3) its blow is taken from the
kit and added to the left and right sum.
"""

from collections.abc import Callable, Iterable, Iterator
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from ghoststep.music.kit import STROKE_NAMES, VOICES
from ghoststep.music.performance import Performance
from ghoststep.sound.kit import Chokes, Kit, usual_chokes

Stereo = NDArray[np.float32]
CHOKE_FADE_S = 0.012
TAIL_LIMIT_S = 4.0


class Strike(NamedTuple):
    """One hit as it is mixed: samples from the start of the sound; `end` is -1 where nothing ends it."""

    start: int
    end: int
    voice: int
    stroke: int
    velocity: int


def choke_times_s(performance: Performance, chokes: Chokes | None = None) -> NDArray[np.float64]:
    """When each hit's sound is ended by another hit or by a hand or foot, inf where nothing ends it; shape (n,).

    `chokes` are the kit's: which voices end which; None is what is usual.
    """
    ends = performance.stops_s.copy()
    names = np.array([v.name for v in VOICES])[performance.voice] if len(performance) else np.array([], str)
    for voice, enders in (usual_chokes() if chokes is None else chokes).items():
        stops = np.sort(performance.onset_s[np.isin(names, enders)])
        mine = np.flatnonzero(names == voice)
        following = np.searchsorted(stops, performance.onset_s[mine], side="right")
        inside = following < len(stops)
        ends[mine[inside]] = np.minimum(ends[mine[inside]], stops[following[inside]])
    return ends


def strikes(
    performance: Performance, rate: int, lead_s: float = 0.0, *, around: bool = False, chokes: Chokes | None = None
) -> list[Strike]:
    """What is to be mixed, in the order of the performance; `around` a loop its start chokes what its end left on."""
    starts = np.rint((performance.onset_s + lead_s) * rate).astype(int)
    ends_s = (_choked_around if around else choke_times_s)(performance, chokes) + lead_s
    ends = np.where(np.isfinite(ends_s), np.rint(np.where(np.isfinite(ends_s), ends_s, 0) * rate), -1).astype(int)
    columns = (starts, ends, performance.voice, performance.stroke, performance.velocity)
    return [Strike(*row) for row in zip(*(c.tolist() for c in columns), strict=True)]


def _choked_around(performance: Performance, chokes: Chokes | None) -> NDArray[np.float64]:
    """`choke_times_s` in a loop that is followed by itself."""
    twice = Performance(
        np.concatenate([performance.onset_s, performance.onset_s + performance.length_s]),
        np.tile(performance.voice, 2),
        np.tile(performance.velocity, 2),
        np.tile(performance.stroke, 2),
        2 * performance.length_s,
        np.concatenate([performance.stops_s, performance.stops_s + performance.length_s]),
    )
    return choke_times_s(twice, chokes)[: len(performance)]


class Mix:
    """A stereo sum to which strikes are added and from which they can be taken again."""

    def __init__(self, kit: Kit, length: int) -> None:
        self._kit = kit
        self.samples = np.zeros((max(length, 0), 2), np.float32)
        self.last = 0  # where the last sound so far ends

    def add(self, strike: Strike, sign: int = 1, *, at: int = 0) -> None:
        """Add a strike, or with sign -1 take one out that was added before; the mix begins at sample `at`."""
        kit, total = self._kit, len(self.samples)
        voice = VOICES[strike.voice].name
        rng = np.random.default_rng([strike.start & 0xFFFFFFFF, strike.voice])
        blow = kit.blow(voice, strike.velocity, rng, STROKE_NAMES[strike.stroke])
        if strike.end >= 0:
            blow = _choked(blow, strike.end - strike.start, kit.rate)
        skip = max(0, at - strike.start)
        start = strike.start - at + skip
        blow = blow[skip : skip + max(0, total - start)]
        if sign > 0:
            self.samples[start : start + len(blow)] += blow
        else:
            self.samples[start : start + len(blow)] -= blow
        self.last = max(self.last, start + len(blow))


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
    room_s = TAIL_LIMIT_S if length_s is None else length_s - performance.length_s
    mix = Mix(kit, round((lead_s + performance.length_s + room_s) * kit.rate))
    for i, strike in enumerate(strikes(performance, kit.rate, lead_s, chokes=kit.chokes)):
        if wanted is None or VOICES[strike.voice].name in wanted:
            mix.add(strike)
        if i % 64 == 0:
            progress(i / len(performance))
    if length_s is None:
        return mix.samples[: max(mix.last, round((lead_s + performance.length_s) * kit.rate))]
    return mix.samples


_BLOCK_S = 8.0


def rendered_blocks(
    performance: Performance,
    kit: Kit,
    *,
    lead_s: float = 0.0,
    sounding: NDArray[np.bool_] | None = None,
    around: bool = False,
    progress: Callable[[float], None] = lambda share: None,
) -> Iterator[Stereo]:
    """What `render` gives, in blocks of some seconds, so that a long performance needs little memory.

    Parameters
    ----------
    sounding
        Which strokes sound (the others still choke), shape (n,); None is all.
    around
        The performance is a loop: a sound that is still on at its end is also ended by what follows it from the start.
    """
    found = strikes(performance, kit.rate, lead_s, around=around, chokes=kit.chokes)
    chosen = found if sounding is None else [s for s, sounds in zip(found, sounding, strict=True) if sounds]
    chosen = sorted(chosen, key=lambda s: s.start)
    end = round((lead_s + performance.length_s) * kit.rate)
    block, start, at = round(_BLOCK_S * kit.rate), 0, 0
    ringing = np.zeros((0, 2), np.float32)
    while at < len(chosen) or len(ringing) or start < end:
        mix = Mix(kit, max(block + round(TAIL_LIMIT_S * kit.rate), len(ringing)))
        mix.samples[: len(ringing)] += ringing
        mix.last = len(ringing)
        while at < len(chosen) and chosen[at].start < start + block:
            s = chosen[at]
            mix.add(s, at=start)
            at += 1
        last = at == len(chosen) and start + block >= end
        length = max(mix.last, end - start) if last else block
        yield mix.samples[:length].copy()
        ringing = mix.samples[length : max(mix.last, length)].copy()
        start += length
        progress(min(start / max(end, 1), 1.0))


def _choked(blow: NDArray[np.float32], length: int, rate: int) -> NDArray[np.float32]:
    fade = round(CHOKE_FADE_S * rate)
    if length + fade >= len(blow):
        return blow
    out = blow[: max(length, 0) + fade].copy()
    out[len(out) - fade :] *= np.linspace(1, 0, fade, dtype=np.float32)[:, None]
    return out
