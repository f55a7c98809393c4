"""A recording cut at its hits, and its pieces played anew at other moments: the recording itself as an instrument.

Cuts lie a little ahead of a hit, where the sound crosses zero, so that no piece clicks. A piece is as long as what
comes after it lets it be; at another pitch it is played faster or slower, as on a record player.
"""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import soxr
from numpy.typing import NDArray

from ghoststep.music.kit import VOICES, voice
from ghoststep.music.touch import level_db
from ghoststep.sound.stretch import drawn_out

Sound = NDArray[np.float32]
AHEAD_S = 0.003  # a cut lies this far ahead of its hit, or nearer
_LOOK_S = 0.002  # around that for a zero
_FADE_S = 0.004
_NEARLY_S = 0.001
_MOST_GAIN_DB = 18.0
_TOGETHER_S = 0.020  # strokes nearer than this share a piece


@dataclass(frozen=True)
class Struck:
    """Strokes that sound as one: their moment in s, their voices, and how hard the hardest of each is."""

    time_s: float
    strokes: tuple[tuple[str, int], ...]  # voice and velocity, by the order of the table of voices

    @property
    def voices(self) -> frozenset[str]:
        return frozenset(name for name, _ in self.strokes)


@dataclass(frozen=True)
class Slice:
    """A piece of a recording: samples `start` to `end`, the hit in it at sample `onset`."""

    start: int
    end: int
    onset: int
    struck: Struck


def together(times_s: Sequence[float], voices: Sequence[str], velocities: Sequence[int]) -> list[Struck]:
    """Strokes gathered where they fall together, in the order of time; the earliest says the moment."""
    rows = sorted(zip(times_s, voices, velocities, strict=True))
    out: list[Struck] = []
    group: list[tuple[float, str, int]] = []
    for row in rows:
        if group and row[0] - group[0][0] > _TOGETHER_S:
            out.append(_struck(group))
            group = []
        group.append(row)
    return [*out, _struck(group)] if group else out


def _struck(group: Sequence[tuple[float, str, int]]) -> Struck:
    hardest: dict[str, int] = {}
    for _, name, velocity in group:
        hardest[name] = max(hardest.get(name, 0), velocity)
    ordered = tuple((v.name, hardest[v.name]) for v in VOICES if v.name in hardest)
    return Struck(group[0][0], ordered)


def cut(samples: Sound, rate: int, struck: Sequence[Struck]) -> list[Slice]:
    """The pieces of a recording of shape (n, channels), one for each moment, each up to the next."""
    mono = samples.mean(axis=1)
    starts = []
    for n, one in enumerate(struck):
        onset = round(one.time_s * rate)
        ahead = AHEAD_S if n == 0 else min(AHEAD_S, (one.time_s - struck[n - 1].time_s) / 3)
        reach = min(round(_LOOK_S * rate), round(ahead * rate) - 1)
        starts.append(_zero_near(mono, onset - round(ahead * rate), reach))
    ends = [*starts[1:], len(samples)]
    rows = zip(starts, ends, struck, strict=True)
    return [Slice(a, b, round(s.time_s * rate), s) for a, b, s in rows if b > a]


def _zero_near(mono: Sound, at: int, reach: int) -> int:
    """Where sound crosses zero nearest to a sample, within `reach`; the quietest where it does not."""
    low, high = max(at - reach, 0), min(at + reach + 1, len(mono))
    if high - low < 2:
        return min(max(at, 0), len(mono))
    part = mono[low:high]
    crossing = np.flatnonzero(np.signbit(part[:-1]) != np.signbit(part[1:])) + 1
    if len(crossing):
        return low + int(crossing[np.argmin(np.abs(crossing + low - at))])
    return low + int(np.argmin(np.abs(part)))


@dataclass(frozen=True)
class Played:
    """A piece chosen for a moment: which it is, what its level is multiplied by."""

    time_s: float
    number: int
    gain: float


def chosen(slices: Sequence[Slice], wanted: Sequence[Struck]) -> list[Played]:
    """For each moment the piece that is most like what is wanted there.

    The same strokes come first, then those that have all that is wanted and little else, then those of the voices that
    are most like; among them the nearest in level, and of equals the one that follows the last piece in the recording,
    so that a groove laid on its own recording takes each piece in turn. What was struck softer or harder is brought
    to the level that is wanted, by no more than 18 dB.
    """
    kinds: dict[frozenset[str], list[int]] = {}
    for number, piece in enumerate(slices):
        kinds.setdefault(piece.struck.voices, []).append(number)
    costs: dict[tuple[frozenset[str], frozenset[str]], float] = {}
    out: list[Played] = []
    last = -1
    for one in wanted:
        mine = one.voices
        for kind in kinds:
            if (mine, kind) not in costs:
                costs[mine, kind] = _unlike(mine, kind)
        nearest = min(costs[mine, kind] for kind in kinds)
        numbers = [n for kind, found in kinds.items() if costs[mine, kind] == nearest for n in found]
        number = min(numbers, key=lambda n: (_apart_db(slices[n].struck, one), (n - last - 1) % len(slices)))
        out.append(Played(one.time_s, number, 10 ** (_level_db(slices[number].struck, one) / 20)))
        last = number
    return out


def _unlike(wanted: frozenset[str], found: frozenset[str]) -> float:
    """How unlike two sets of voices are: what is missing counts more than what is too many."""
    missing = sum(min((_far(w, f) for f in found), default=4.0) for w in wanted - found)
    return 3.0 * missing + len(found - wanted)


def _far(a: str, b: str) -> float:
    if a == b:
        return 0.0
    like = voice(a).takes_after
    if b in like:
        return 1.0 + 0.2 * like.index(b)
    return 2.0 if voice(a).group == voice(b).group else 4.0


def _apart_db(found: Struck, wanted: Struck) -> float:
    """How far two strokes are apart in level, all voices together."""
    have = dict(found.strokes)
    return sum(abs(float(level_db(float(v))) - float(level_db(float(have.get(name, v))))) for name, v in wanted.strokes)


def _level_db(found: Struck, wanted: Struck) -> float:
    """How much louder the piece has to be: by its loudest voice that is wanted."""
    have = dict(found.strokes)
    shared = [(v, have[name]) for name, v in wanted.strokes if name in have]
    want, has = max(shared) if shared else (max(v for _, v in wanted.strokes), max(v for _, v in found.strokes))
    return min(max(float(level_db(float(want))) - float(level_db(float(has))), -_MOST_GAIN_DB), _MOST_GAIN_DB)


def replayed(
    samples: Sound, rate: int, slices: Sequence[Slice], played: Sequence[Played], length_s: float, *, speed: float = 1.0
) -> Sound:
    """The pieces at their moments, shape (n, channels); each ends where the next begins.

    Parameters
    ----------
    played
        In the order of time, in seconds from the start of the result.
    speed
        How much faster each piece is played, and higher with it; 1 leaves pitch as it is. A piece that has to last
        longer than it does is drawn out from its own tail.
    """
    out = np.zeros((round(length_s * rate), samples.shape[1]), np.float32)
    ready: dict[int, tuple[Sound, int]] = {}
    begins: list[int] = []
    for one in played:
        if one.number not in ready:
            ready[one.number] = _at_speed(samples, slices[one.number], rate, speed)
        begin = round(one.time_s * rate) - ready[one.number][1]
        begins.append(_following(begin, begins, ready, played, rate))
    fade = round(_FADE_S * rate)
    for n, (one, begin) in enumerate(zip(played, begins, strict=True)):
        end = begins[n + 1] if n + 1 < len(played) else len(out)
        follows = n + 1 < len(played) and played[n + 1].number == one.number + 1 and one.gain == played[n + 1].gain
        sound = ready[one.number][0]
        length = max(end - begin, 0)
        # A piece goes on under the next one's fade, unless that is what comes after it in the recording anyway.
        over = 0 if follows and length == len(sound) else fade
        piece = drawn_out(sound, length, rate, one.number)
        piece = piece if over == 0 else _faded(piece, min(fade, length))
        _add(out, piece * np.float32(one.gain), begin)
    return out


def _following(
    begin: int, begins: Sequence[int], ready: dict[int, tuple[Sound, int]], played: Sequence[Played], rate: int
) -> int:
    """Where a piece begins: right behind the one it follows in the recording too, where that is nearly so anyway."""
    n = len(begins)
    if n == 0 or played[n].number != played[n - 1].number + 1:
        return begin
    behind = begins[-1] + len(ready[played[n - 1].number][0])
    return behind if abs(behind - begin) <= _NEARLY_S * rate else begin


def _at_speed(samples: Sound, piece: Slice, rate: int, speed: float) -> tuple[Sound, int]:
    """The samples of a piece at a speed, and where its hit lies in them."""
    sound = samples[piece.start : piece.end]
    if speed == 1.0:
        return sound, piece.onset - piece.start
    moved = soxr.resample(sound, rate * speed, rate).astype(np.float32)
    return moved, round((piece.onset - piece.start) / speed)


def _faded(sound: Sound, fade: int) -> Sound:
    out = sound.copy()
    out[len(out) - fade :] *= np.linspace(1, 0, fade, dtype=np.float32)[:, None]
    return out


def _add(out: Sound, piece: Sound, at: int) -> None:
    skip = max(0, -at)
    part = piece[skip : skip + max(0, len(out) - max(at, 0))]
    out[max(at, 0) : max(at, 0) + len(part)] += part
