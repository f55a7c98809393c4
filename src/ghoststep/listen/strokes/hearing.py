"""Sound -> Performance: every hit with its voice, velocity, moment and confidence.

Steps: (1) one channel at 44.1 kHz; (2) candidate moments; (3) the voice network on a patch around each; (4) decisions
by group and voice, doubles of one stroke merged, grace notes set ahead of their main stroke.
"""

import os
from collections.abc import Callable, Collection, Mapping, Sequence
from concurrent.futures import ThreadPoolExecutor
from contextlib import nullcontext
from dataclasses import dataclass, replace
from functools import partial

import numpy as np
import soxr
from numpy.typing import NDArray

from ghoststep.listen.signal.click_sound import ClickSound, found_click, given_at, without_click
from ghoststep.listen.signal.filters import energies
from ghoststep.listen.signal.groups import NET_GROUPS
from ghoststep.listen.signal.loudness import LEVEL_BANDS, hat_levels_db, levels_db
from ghoststep.listen.signal.onsets import candidates_s
from ghoststep.listen.signal.patches import RANGES_OF_SOUND, Scene, attack_rises, patches, raw_patches
from ghoststep.listen.signal.spectrum import LISTEN_RATE, Floats
from ghoststep.listen.strokes.closing import closings_s
from ghoststep.listen.strokes.evidence import Evidence
from ghoststep.listen.strokes.limits import LIMITS, PERHAPS
from ghoststep.listen.strokes.masked import hats_as_alone
from ghoststep.listen.strokes.network import Heard, hear, probability_of
from ghoststep.listen.strokes.perhaps import Perhaps
from ghoststep.listen.strokes.rules.rule import after
from ghoststep.listen.strokes.rules.table import FIRST_HEARING
from ghoststep.listen.strokes.strokes import Stroke, strokes_told, with_graces
from ghoststep.music.errors import InputError
from ghoststep.music.kit import STROKE_INDEX, VOICES
from ghoststep.music.performance import Performance

_BLOCK_S = 30.0  # what needs the sound is done block by block, so that memory hardly grows with the file
_THREADS = 2
BANDS = (*RANGES_OF_SOUND, *LEVEL_BANDS)
# Below these most snares, and most hats under a sure stroke, were none on kits nobody learnt from (117 of 135 snares,
# all of 36 hats), so they are offered and not told. Of few or doubtful strokes there is nothing to choose from.
TOLD, UNDER_OTHERS = {"snare": 0.65, "toms": 0.65}, {"hat": 0.65}
_SURE, _TOGETHER_S, _FEW, _MOST_LEFT_OUT = 0.7, 0.03, 12, 0.4
# Of these voices one in nine of those offered is a stroke at most, and they would be under many strokes.
_NEVER_OFFERED = ("hat_pedal", "hat_half", "cross_stick")
_DOUBTFUL_MEAN = 0.84
_LEAST_LIKE_A_KIT = 0.7  # mean over the hits, see `no_kit.sureness`
# Below these the sound hardly begins as drums do: the median rise of energy at the hits, in natural-log units of
# amplitude, and the share of candidates that are hits.
_LEAST_RISE, _LEAST_SHARE = 0.6, 0.05
DOUBTFUL = "Much of this is doubtful: it may not be a recording of drums alone."
NO_KIT = "Much of this sounds like no drum kit: it is written as the nearest voices, and is less sure."
UNLIKE_DRUMS = "This hardly begins as drums do: it may be no recording of drums at all."
_PEAK = 0.5
# A sound cut to be looped begins with a stroke, and its end still sounds: what rings into the next round was not faded.
_CUT_START_S, _CUT_END_S, _CUT_END = 0.035, 0.030, 10 ** (-72 / 20)
_SHORTEST_LOOP_S, _LONGEST_LOOP_S = 0.8, 40.0
QUIET = 10 ** (-70 / 20)


@dataclass(frozen=True)
class Hearing:
    """What was heard, in the order of time, with the confidence (0 to 1) of each hit and remarks for the user."""

    performance: Performance
    confidence: NDArray[np.float64]
    remarks: tuple[str, ...]
    moments_s: NDArray[np.float64]  # every candidate, hit or not
    heard: Heard
    closed_s: tuple[tuple[float, float], ...] = ()  # onset and closing of open hats that are closed again
    perhaps: tuple[Perhaps, ...] = ()  # strokes at odds too low to be played
    sound: Floats | None = None  # what was listened to, prepared
    scene: Scene | None = None  # what its patches are measured by
    click: ClickSound | None = None  # a click that sounds in the recording; it is taken out of `sound`


def prepared(samples: NDArray[np.float32], rate: int) -> NDArray[np.float32]:
    """One channel at LISTEN_RATE without offset, its peak at _PEAK.

    Parameters
    ----------
    samples
        Shape (n,) or (n, channels).

    Raises
    ------
    InputError
        Where there is nothing to hear: no sample, or silence.
    """
    mono = samples if samples.ndim == 1 else samples[:, 0] if samples.shape[1] == 1 else _mixed(samples)
    if len(mono) < 64:
        raise InputError("The sound is too short to hold a hit.")
    loudest = _peak(mono)
    if loudest < QUIET and samples.ndim == 2:  # channels that cancel each other out
        mono = samples[:, 0]
        loudest = _peak(mono)
    if loudest < QUIET:
        raise InputError("The sound is silent: nothing in it is louder than -70 dB.")
    if rate != LISTEN_RATE:
        mono = soxr.resample(mono, rate, LISTEN_RATE)
    even = np.array(mono, np.float32)  # changed in place from here on: a long sound is large
    even -= even.mean(dtype=np.float64).astype(np.float32)
    return levelled(even)


def _mixed(samples: NDArray[np.float32]) -> NDArray[np.float32]:
    """The mean of the channels; channel by channel, which is several times faster than along a short axis."""
    out = samples[:, 0].copy()
    for channel in range(1, samples.shape[1]):
        out += samples[:, channel]
    out /= np.float32(samples.shape[1])
    return out


def levelled(sound: Floats) -> Floats:
    """The sound (changed in place) with its peak at _PEAK: what is compared with silence would else depend on it."""
    sound *= np.float32(_PEAK / max(_peak(sound), 1e-9))
    return sound


def _peak(sound: Floats) -> float:
    """The largest value either way, without a copy: a long sound is large."""
    return max(float(sound.max()), float(-sound.min()))


def listen(
    samples: NDArray[np.float32],
    rate: int,
    *,
    off: Collection[str] = (),
    progress: Callable[[float], None] = lambda share: None,
) -> Hearing:
    """Hear the drums in a sound.

    Parameters
    ----------
    samples, rate
        Shape (n,) or (n, channels), at any rate from 4 kHz.
    off
        Names of rules (`rules/table.py`) that are left out, to find what each is worth.
    progress
        Called with 0 to 1; may raise to stop.

    Raises
    ------
    InputError
        Where the sound is empty, silent, or holds nothing that sounds like a drum.
    """
    if not 4000 <= rate <= 768000:
        raise InputError(f"A sample rate of {rate} Hz is outside 4 to 768 kHz.")
    remarks = []
    sound = prepared(samples, rate)
    if np.count_nonzero(samples >= 0.999) + np.count_nonzero(samples <= -0.999) > 1e-3 * samples.size:
        remarks.append("The recording is clipped; velocities near the top are less sure.")
    click = found_click(sound)
    if click is not None:
        sound = without_click(sound, click)
        if _peak(sound) < QUIET:
            raise InputError("Nothing but a click sounds in this recording: there are no drums to hear.")
        sound = levelled(sound)
    progress(0.1)
    moments, raw, levels = _all_candidates(sound, progress)
    given = None if click is None else given_at(click, moments)
    found = _heard(sound, moments, raw, levels, given=given, off=off, progress=progress)
    return replace(found, remarks=(*remarks, *found.remarks), click=click)


def heard_at(
    sound: Floats,
    moments_s: NDArray[np.float64],
    *,
    given: Floats,
    levels: Mapping[int, NDArray[np.float64]],
    progress: Callable[[float], None] = lambda share: None,
) -> Hearing:
    """Hear the drums at candidates that are known, with what else is known of them.

    Parameters
    ----------
    sound
        As `prepared` gives it.
    moments_s
        Ascending, shape (n,).
    given
        Added to the log-odds of NET_GROUPS, shape (n, groups).
    levels
        Levels in dB of some groups by their number, shape (n,) each, better than those in the sound.

    Raises
    ------
    InputError
        Where there is no candidate, or nothing is struck.
    """
    energy = energies(sound, BANDS)
    level_db = levels_db(sound, moments_s, energy)
    raw = raw_patches(sound, moments_s, energy)
    progress(0.8)
    return _heard(sound, moments_s, raw, level_db, given=given, better=levels, progress=progress)


def _heard(
    sound: Floats,
    moments: NDArray[np.float64],
    raw: Floats,
    levels: NDArray[np.float64],
    *,
    given: Floats | None = None,
    better: Mapping[int, NDArray[np.float64]] | None = None,
    off: Collection[str] = (),
    progress: Callable[[float], None],
) -> Hearing:
    """What is struck at the candidates, and whether it sounds like drums at all."""
    if not len(moments):
        raise InputError("Nothing in this sound begins like a drum stroke.")
    scene = Scene.of(raw, levels)
    seen = patches(raw, moments, levels, scene)
    hat = NET_GROUPS.index("hat")
    levels[:, hat] = hat_levels_db(sound, moments)  # better than what the network was shown
    for g, level_db in (better or {}).items():
        levels[:, g] = level_db
    heard = hear(seen, moments, levels, given)
    heard = after(FIRST_HEARING, Evidence(moments, heard, sound), off=off).heard
    progress(0.9)
    remarks = []
    hits = probability_of(heard.group_odds).max(axis=1) >= 0.5
    if not hits.any() or np.median(attack_rises(raw)[hits]) < _LEAST_RISE or hits.mean() < _LEAST_SHARE:
        remarks.append(UNLIKE_DRUMS)
    cut = cut_to_loop(sound, moments[hits])
    found = decided(moments, heard, length_s=len(sound) / LISTEN_RATE, cut=cut, remarks=tuple(remarks))
    return replace(found, sound=sound, scene=scene)


def decided(
    moments_s: NDArray[np.float64],
    heard: Heard,
    *,
    length_s: float,
    cut: bool = False,
    remarks: tuple[str, ...],
    limits: Mapping[str, float] = LIMITS,
) -> Hearing:
    """Turn log-odds into hits; `limits` are the least odds (0 to 1) of each group to be struck.

    Raises
    ------
    InputError
        Where nothing is struck.
    """
    # Doubles are merged before what is doubtful is set apart, so that no offer is a second view of a stroke.
    low = {group: min(limit, PERHAPS[group]) for group, limit in limits.items()}
    all_strokes = strokes_told(moments_s, heard, low)
    certain = _certain(all_strokes, limits)
    strokes = hats_as_alone(with_graces(certain))
    if not strokes:
        raise InputError("No drum was recognised in this sound.")
    confidence = np.array([s.confidence * s.like_a_kit for s in strokes])
    if UNLIKE_DRUMS not in remarks:
        no_kit = np.mean([s.like_a_kit for s in strokes]) < _LEAST_LIKE_A_KIT
        remarks += (NO_KIT,) if no_kit else (DOUBTFUL,) if confidence.mean() < _DOUBTFUL_MEAN else ()
    performance = Performance.of(
        [max(s.time_s, 0.0) for s in strokes],
        [s.voice for s in strokes],
        [s.velocity for s in strokes],
        stroke=[STROKE_INDEX["buzz" if s.buzz else "plain"] for s in strokes],
        length_s=length_s,
        cut=cut,
    )
    perhaps = tuple(
        Perhaps(max(s.time_s, 0.0), VOICES[s.voice].name, s.velocity, s.confidence * s.like_a_kit)
        for s in all_strokes
        if not any(s is c for c in certain) and VOICES[s.voice].name not in _NEVER_OFFERED
    )
    return Hearing(performance, confidence, remarks, moments_s, heard, perhaps=perhaps)


def _certain(strokes: Sequence[Stroke], limits: Mapping[str, float]) -> list[Stroke]:
    """The strokes that are told: those past their limit, and of soft ones and those under others only the surer.

    A foot is told by all its strokes together, so that none of them need be sure by itself.
    """
    found = [s for s in strokes if s.confidence >= limits[VOICES[s.voice].group]]
    sure = np.sort([s.time_s for s in found if s.confidence >= _SURE])

    def stays(s: Stroke) -> bool:
        group = VOICES[s.voice].group
        if s.confidence < TOLD.get(group, 0.0):
            return False
        if s.confidence >= UNDER_OTHERS.get(group, 0.0) or VOICES[s.voice].name == "hat_pedal":
            return True
        near = np.searchsorted(sure, [s.time_s - _TOGETHER_S, s.time_s + _TOGETHER_S])
        return bool(near[0] == near[1])

    kept = [s for s in found if stays(s)]
    return kept if len(found) >= _FEW and len(kept) >= (1 - _MOST_LEFT_OUT) * len(found) else found


def cut_to_loop(sound: NDArray[np.float32], hits_s: NDArray[np.float64]) -> bool:
    """Whether a sound begins with a stroke and goes over from its end to its start without a break.

    Parameters
    ----------
    sound
        Mono at LISTEN_RATE, shape (n,).
    hits_s
        Moments of strokes, ascending.
    """
    if (
        not len(hits_s)
        or hits_s[0] > _CUT_START_S
        or not _SHORTEST_LOOP_S <= len(sound) / LISTEN_RATE <= _LONGEST_LOOP_S
    ):
        return False
    end = sound[-round(_CUT_END_S * LISTEN_RATE) :]
    loudest = float(np.abs(sound).max())
    return float(np.sqrt(np.mean(np.square(end, dtype=np.float64)))) > _CUT_END * loudest


Candidates = tuple[NDArray[np.float64], NDArray[np.float32], NDArray[np.float64]]


def _all_candidates(sound: NDArray[np.float32], progress: Callable[[float], None]) -> Candidates:
    """Candidates, what surrounds them and their levels, block by block; blocks overlap, so that edges do not show."""
    starts = range(0, len(sound), round(_BLOCK_S * LISTEN_RATE))
    found: list[Candidates] = []
    threads = min(len(starts), _THREADS, len(os.sched_getaffinity(0)))
    # Nearly all of the time is spent in transforms, beside which another thread runs.
    with ThreadPoolExecutor(threads) if threads > 1 else nullcontext() as pool:
        heard = partial(_block_candidates, sound)
        # Where `progress` stops it, the mapping is closed, and what has not begun is not begun.
        for number, part in enumerate(pool.map(heard, starts) if pool else map(heard, starts)):
            found.append(part)
            progress(0.1 + 0.8 * (number + 1) / len(starts))
    moments, raw, levels = (np.concatenate(parts) for parts in zip(*found, strict=True))
    return moments, raw, levels


def _block_candidates(sound: NDArray[np.float32], start: int) -> Candidates:
    """Candidates of the block that begins at a sample, what surrounds them and their levels."""
    end = start + round(_BLOCK_S * LISTEN_RATE)
    a, b = max(0, start - LISTEN_RATE), min(len(sound), end + LISTEN_RATE)
    piece = sound[a:b]
    moments = candidates_s(piece, from_silence=not a)
    inside = moments + a / LISTEN_RATE
    moments = moments[(inside >= start / LISTEN_RATE) & (inside < end / LISTEN_RATE)]
    energy = energies(piece, BANDS)
    return moments + a / LISTEN_RATE, raw_patches(piece, moments, energy), levels_db(piece, moments, energy)


def with_closings(hearing: Hearing) -> Hearing:
    """The hearing with the moments at which its open hats are closed again, and without the sound that told them."""
    sound, hearing = hearing.sound, replace(hearing, sound=None)
    names = np.array([VOICES[v].name for v in hearing.performance.voice])
    hats = np.array([VOICES[v].group == "hat" for v in hearing.performance.voice], bool)
    opened = hearing.performance.onset_s[(names == "hat_open") | (names == "hat_half")]
    if sound is None or not len(opened):
        return hearing
    found = closings_s(sound, opened, np.sort(hearing.performance.onset_s[hats]))
    pairs = tuple((float(a), float(b)) for a, b in zip(opened, found, strict=True) if np.isfinite(b))
    return replace(hearing, closed_s=pairs)
