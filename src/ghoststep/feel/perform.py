"""Pattern + Feel -> Performance."""

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from ghoststep.feel.looseness import Pass, Strokes, tempo_drift_s, time_deviations_ms
from ghoststep.feel.ornaments import spelled_out
from ghoststep.feel.touching import touched, velocities
from ghoststep.music.feel import Feel
from ghoststep.music.groove import Groove
from ghoststep.music.kit import METAL, STROKE_INDEX, VOICE_INDEX
from ghoststep.music.pattern import Hit
from ghoststep.music.performance import Performance, joined

Floats = NDArray[np.float64]


def feel_times_s(groove: Groove, number: int = 0) -> Floats:
    """Where the feel alone puts each hit of the pattern, in seconds from the first bar line; shape (n,).

    The hit's own deviation is not in it, so an onset minus this is what has to be kept with the hit.

    Parameters
    ----------
    number
        Which pass of a loop it is; of a frozen take all are alike.
    """
    out = _free_times_s(groove, number)
    return _in_order(groove, out) if _bends(groove.feel) else out


def _free_times_s(groove: Groove, number: int) -> Floats:
    """Where the feel puts each hit, whatever stands before it; shape (n,)."""
    feel, which = groove.feel, _pass_of(groove, number)
    strokes = _strokes(groove)
    out = groove.tempo.seconds(_swung(groove, _ticks(groove))) + late_ms(groove) / 1000
    loose_ms = time_deviations_ms(strokes, which, feel.wander, feel.loose_ms)
    if feel.steady:
        loose_ms[[h.voice in feel.steady for h in groove.pattern.hits]] = 0.0
    out += loose_ms / 1000
    wander = feel.wander
    if wander.tempo_percent or wander.push_percent:
        starts = groove.pattern.frame.start_of(np.arange(1, groove.pattern.bars + 2))
        out += tempo_drift_s(groove.tempo.seconds(starts), strokes.times_s, which, wander)
    fixed = [i for i, h in enumerate(groove.pattern.hits) if h.fixed]
    if fixed:
        out[fixed] = groove.tempo.seconds(_ticks(groove)[fixed])
    return np.asarray(out)


def held_back(groove: Groove) -> int:
    """How many strokes wait for the one before them, since the feel would put them ahead of it."""
    groove = spelled_out(groove)
    if not groove.pattern.hits or not _bends(groove.feel):
        return 0
    free = _free_times_s(groove, 0)
    return int((_in_order(groove, free) > free + 1e-9).sum())


def _bends(feel: Feel) -> bool:
    """Whether a feel could put one stroke of a limb ahead of the one before it."""
    wander = feel.wander
    return bool(
        feel.lean_ms or feel.loose_ms or feel.spots or feel.swings or wander.tempo_percent or wander.push_percent
    )


def _in_order(groove: Groove, times_s: Floats) -> Floats:
    """The times with each limb's strokes in the order they are meant: one that would come too early waits."""
    out = times_s.copy()
    ticks = _ticks(groove)
    letters = np.array([h.limb_letter for h in groove.pattern.hits])
    for letter in dict.fromkeys(letters.tolist()):
        mine = np.flatnonzero(letters == letter)
        mine = mine[np.argsort(ticks[mine], kind="stable")]
        latest = np.maximum.accumulate(out[mine])
        group = np.searchsorted(ticks[mine], ticks[mine])  # the first stroke on the same spot
        before = np.where(group > 0, latest[group - 1], -np.inf)
        out[mine] = np.maximum(out[mine], before)
    return out


def late_ms(groove: Groove) -> Floats:
    """Lean of each hit's voice, with that of its spot; shape (n,)."""
    feel, hits = groove.feel, groove.pattern.hits
    lean = np.array([feel.lean_of(h.voice) for h in hits], float)
    if not feel.spots:
        return lean
    found = feel.spots_at([h.voice for h in hits], [h.position_ticks for h in hits], groove.pattern.frame)
    return lean + np.array([spot.late_ms if spot else 0.0 for spot in found])


def _pass_of(groove: Groove, number: int) -> Pass:
    feel = groove.feel
    leaves = feel.another_every and (number + 1) % feel.another_every == 0
    return Pass(groove.length_s, 0 if feel.frozen and not leaves else number, (feel.seed, feel.take))


def _ticks(groove: Groove) -> Floats:
    return np.array([h.position_ticks for h in groove.pattern.hits], float)


def _strokes(groove: Groove) -> Strokes:
    hits = groove.pattern.hits
    velocity = np.array([h.velocity for h in hits], float)
    return Strokes(groove.tempo.seconds(_ticks(groove)), [h.limb_letter for h in hits], velocity)


def _swung(groove: Groove, ticks: Floats) -> Floats:
    """Played ticks of all hits, by the swing of each voice.

    The strokes of a roll divide the time from its start to its landing evenly.
    """
    feel, hits = groove.feel, groove.pattern.hits
    if not feel.swings:
        return _bent(groove, ticks, np.arange(len(hits)))
    out = ticks.copy()
    own = {name: np.flatnonzero([h.voice == name for h in hits]) for name in feel.swings}
    rest = np.flatnonzero([h.voice not in feel.swings for h in hits])
    for name, mine in [*own.items(), ("", rest)]:
        if len(mine):
            out[mine] = _bent(groove, ticks, mine, name)
    return out


def _bent(groove: Groove, ticks: Floats, mine: NDArray[np.int64], voice: str = "") -> Floats:
    """Played ticks of some hits, in one swing."""
    swing, frame = groove.feel.swing_of(voice), groove.pattern.frame
    out = swing.bend(ticks[mine], frame)
    hits = groove.pattern.hits
    rolled = [(at, hits[i].within) for at, i in enumerate(mine) if hits[i].within is not None]
    if rolled and not swing.straight:
        index = np.array([at for at, _ in rolled])
        start, end = np.array([w for _, w in rolled], float).T
        a, b = swing.bend(start, frame), swing.bend(end, frame)
        out[index] = a + (ticks[mine][index] - start) / (end - start) * (b - a)
    return out


def perform(groove: Groove, number: int = 0) -> Performance:
    """Play a groove: one hit for each stroke, in the order of `spelled_out(groove).pattern`.

    Without ornaments that is the order of the pattern's own hits.

    Parameters
    ----------
    number
        Which pass of a loop it is, from 0: a player plays no two alike, unless the take is frozen.
    """
    groove = spelled_out(groove)
    if groove.feels:
        return _in_turn(groove, number)
    hits: tuple[Hit, ...] = groove.pattern.hits
    # Where grace notes lie is their ornament's affair.
    share = groove.feel.own_share
    own_s = np.array([h.offset_ms * (1.0 if h.grace or h.fixed else share) for h in hits], float) / 1000
    onset_s = feel_times_s(groove, number) + own_s if hits else np.zeros(0)
    return Performance.of(
        onset_s,
        [VOICE_INDEX[h.voice] for h in hits],
        velocities(hits, groove.feel, groove.pattern.frame, _strokes(groove), _pass_of(groove, number)),
        stroke=[STROKE_INDEX[h.stroke] for h in hits],
        length_s=groove.length_s,
        stop_s=_stops_s(groove, onset_s),
    )


def _in_turn(groove: Groove, number: int) -> Performance:
    """Each stretch of bars in the feel that holds there, as its player would play the whole of it."""
    ticks, frame = _ticks(groove), groove.pattern.frame
    starts = np.array([frame.start_of(bar) for bar, _ in groove.feels])
    which = np.searchsorted(starts, ticks, side="right")  # 0: the feel of the groove itself
    feels = [groove.feel, *(feel for _, feel in groove.feels)]
    plain = replace(groove, feels=())
    played = {k: perform(replace(plain, feel=feels[k]), number) for k in dict.fromkeys(which.tolist())}
    one = next(iter(played.values()), perform(plain, number))
    rows = np.arange(len(ticks))

    def chosen(name: str) -> NDArray[np.float64]:
        out = np.array(getattr(one, name), float)
        for k, performance in played.items():
            out[rows[which == k]] = getattr(performance, name)[which == k]
        return out

    return replace(
        one,
        onset_s=chosen("onset_s"),
        velocity=chosen("velocity").astype(np.int16),
        stop_s=chosen("stops_s"),
    )  # fmt: skip


def steady_velocities(groove: Groove) -> list[int] | None:
    """Velocities of the pattern's hits as the feel's touch makes them, without what varies; None where it makes none.

    In the order of the pattern's hits.
    """
    feel = groove.feel
    if not touched(feel):
        return None
    still = replace(feel, wander=replace(feel.wander, velocity=0.0), balance_db={})
    return velocities(groove.pattern.hits, still, groove.pattern.frame, _strokes(groove), _pass_of(groove, 0))


def perform_passes(groove: Groove, count: int, first: int = 0) -> Performance:
    """So many passes of a loop, one behind the other, each played anew; of a frozen take all are alike."""
    if count == 1:
        return perform(groove, first)
    alike = not varies(groove.feel)
    passes = [perform(groove, first)] * count if alike else [perform(groove, first + n) for n in range(count)]
    return joined(passes)


def varies(feel: Feel) -> bool:
    """Whether a player with this feel plays no two passes alike."""
    wander = feel.wander
    strays = bool(feel.loose_ms or wander.velocity or wander.tempo_percent)
    return strays and (not feel.frozen or feel.another_every > 0)


def _stops_s(groove: Groove, onset_s: Floats) -> Floats:
    """When a hit's sound is ended by its own length, or by the end of a pattern that does not ring over; else inf."""
    hits = groove.pattern.hits
    stop_s = np.full(len(hits), np.inf)
    held = [i for i, h in enumerate(hits) if h.length_ticks]
    if held:
        ends = np.array([hits[i].position_ticks + hits[i].length_ticks for i in held], float)
        frame, feel = groove.pattern.frame, groove.feel
        swung = [
            end if hits[i].fixed else feel.swing_of(hits[i].voice).bend_one(end, frame)
            for i, end in zip(held, ends, strict=True)
        ]
        lean = np.array([0.0 if hits[i].fixed else feel.lean_of(hits[i].voice) for i in held]) / 1000
        stop_s[held] = np.maximum(groove.tempo.seconds(swung) + lean, onset_s[held])
    if not groove.pattern.rules.ring_over:
        metal = [i for i, h in enumerate(hits) if VOICE_INDEX[h.voice] in METAL]
        stop_s[metal] = np.minimum(stop_s[metal], np.maximum(groove.length_s, onset_s[metal]))
    return stop_s
