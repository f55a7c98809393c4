"""Sound -> Performance: every hit with its voice, velocity, moment and confidence.

Steps: (1) one channel at 44.1 kHz; (2) candidate moments; (3) the voice network on a patch around each; (4) decisions
by group and voice, doubles of one stroke merged.
"""

from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np
import soxr
from numpy.typing import NDArray

from ghoststep.listen.loudness import levels_db, velocities
from ghoststep.listen.onsets import candidates_s
from ghoststep.listen.patches import patches
from ghoststep.listen.spectrum import LISTEN_RATE
from ghoststep.listen.voicenet import NET_GROUPS, Heard, hear
from ghoststep.music.errors import InputError
from ghoststep.music.kit import VOICES
from ghoststep.music.performance import Performance

_BLOCK_S = 60.0  # patches are made block by block, so that memory does not grow with the file
_DOUBLE_S = 0.030
# Set on kept-back and development cases: a false cymbal costs more to mend than it helps.
_GROUP_THRESHOLD = {"kick": 0.45, "snare": 0.5, "hat": 0.42, "toms": 0.65, "cymbals": 0.75}
_DOUBTFUL_MEAN = 0.7
DOUBTFUL = "Much of this is doubtful: it may not be a recording of drums alone."
QUIET = 10 ** (-70 / 20)


@dataclass(frozen=True)
class Hearing:
    """What was heard, in the order of time, with the confidence (0 to 1) of each hit and remarks for the user."""

    performance: Performance
    confidence: NDArray[np.float64]
    remarks: tuple[str, ...]
    moments_s: NDArray[np.float64]  # every candidate, hit or not
    heard: Heard


def prepared(samples: NDArray[np.float32], rate: int) -> NDArray[np.float32]:
    """One channel at LISTEN_RATE without offset.

    Parameters
    ----------
    samples
        Shape (n,) or (n, channels).

    Raises
    ------
    InputError
        Where there is nothing to hear: no sample, or silence.
    """
    mono = samples if samples.ndim == 1 else samples.mean(axis=1)
    if len(mono) < 64:
        raise InputError("The sound is too short to hold a hit.")
    loudest = float(np.abs(mono).max())
    if loudest < QUIET and samples.ndim == 2:  # channels that cancel each other out
        mono = samples[:, 0]
        loudest = float(np.abs(mono).max())
    if loudest < QUIET:
        raise InputError("The sound is silent: nothing in it is louder than -70 dB.")
    if rate != LISTEN_RATE:
        mono = soxr.resample(mono, rate, LISTEN_RATE)
    return np.asarray(mono - mono.mean(), np.float32)


def listen(
    samples: NDArray[np.float32], rate: int, *, progress: Callable[[float], None] = lambda share: None
) -> Hearing:
    """Hear the drums in a sound.

    Parameters
    ----------
    samples, rate
        Shape (n,) or (n, channels), at any rate from 4 kHz.
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
    if float((np.abs(samples) >= 0.999).mean()) > 1e-3:
        remarks.append("The recording is clipped; velocities near the top are less sure.")
    progress(0.1)
    moments = _all_candidates(sound, progress)
    if not len(moments):
        raise InputError("Nothing in this sound begins like a drum stroke.")
    heard = replace(hear(patches(sound, moments)), level_db=levels_db(sound, moments))
    progress(0.9)
    return decided(moments, heard, length_s=len(sound) / LISTEN_RATE, remarks=tuple(remarks))


def decided(moments_s: NDArray[np.float64], heard: Heard, *, length_s: float, remarks: tuple[str, ...]) -> Hearing:
    """Turn log-odds into hits.

    Raises
    ------
    InputError
        Where nothing is struck.
    """
    onset, voice, velocity, confidence = _struck(moments_s, heard)
    if not len(onset):
        raise InputError("No drum was recognised in this sound.")
    if confidence.mean() < _DOUBTFUL_MEAN and DOUBTFUL not in remarks:
        remarks = (*remarks, DOUBTFUL)
    performance = Performance.of(onset, voice, velocity, length_s=length_s)
    return Hearing(performance, confidence, remarks, moments_s, heard)


def _all_candidates(sound: NDArray[np.float32], progress: Callable[[float], None]) -> NDArray[np.float64]:
    """Candidates block by block; blocks overlap by a second and meet in the middle of it."""
    block, overlap = round(_BLOCK_S * LISTEN_RATE), LISTEN_RATE
    found = []
    for start in range(0, len(sound), block):
        a, b = max(0, start - overlap), min(len(sound), start + block + overlap)
        moments = candidates_s(sound[a:b]) + a / LISTEN_RATE
        inside = (moments >= start / LISTEN_RATE) & (moments < (start + block) / LISTEN_RATE)
        found.append(moments[inside])
        progress(0.1 + 0.6 * b / len(sound))
    return np.concatenate(found)


def chance_of(odds: NDArray[np.float32]) -> NDArray[np.float64]:
    return np.asarray(1 / (1 + np.exp(-odds.astype(float))))


Found = tuple[NDArray[np.float64], NDArray[np.int16], NDArray[np.int16], NDArray[np.float64]]


def _struck(moments: NDArray[np.float64], heard: Heard) -> Found:
    """Onset, voice, velocity and confidence of every stroke, in the order of time."""
    chance = chance_of(heard.group_odds)
    rows: list[tuple[float, int, int, float]] = []
    for g, group in enumerate(NET_GROUPS):
        members = [v for v, voice in enumerate(VOICES) if voice.group == group]
        struck = np.flatnonzero(chance[:, g] >= _GROUP_THRESHOLD[group])
        voices = np.array([members[int(np.argmax(heard.voice_odds[i, members]))] for i in struck], int)
        loud = np.zeros(len(struck))
        for v in np.unique(voices):
            mine = voices == v
            loud[mine] = velocities(heard.velocity[struck[mine], v].astype(float), heard.level_db[struck[mine], g])
        strokes = [
            (moments[i] + heard.late_s[i, v], int(v), float(x), float(chance[i, g]))
            for i, v, x in zip(struck, voices, loud, strict=True)
        ]
        rows += _merged(strokes)
    rows.sort()
    onset, voice, velocity, confidence = (list(c) for c in zip(*rows, strict=True)) if rows else ([], [], [], [])
    return (
        np.maximum(np.array(onset, float), 0.0),
        np.array(voice, np.int16),
        np.clip(np.rint(velocity), 1, 127).astype(np.int16),
        np.array(confidence, float),
    )


def _merged(strokes: list[tuple[float, int, float, float]]) -> list[tuple[float, int, int, float]]:
    """One stroke seen from two candidates becomes one; the surer view is kept."""
    kept: list[tuple[float, int, float, float]] = []
    for stroke in sorted(strokes, key=lambda s: -s[3]):
        if all(abs(stroke[0] - other[0]) >= _DOUBLE_S for other in kept):
            kept.append(stroke)
    return [(t, v, round(velocity), c) for t, v, velocity, c in kept]
