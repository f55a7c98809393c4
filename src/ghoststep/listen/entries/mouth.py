"""Mouth drumming: a phrase beatboxed by someone whose sounds nobody has heard before.

The recording itself teaches which sounds there are. Steps: (1) onsets that stand out; (2) for each the shape of its
spectrum, loudness taken out, and how long it lasts; (3) without a lesson the sounds are grouped by k-means, the number
of groups by the silhouette (Rousseeuw 1987), and named by where they lie: the lowest is the kick, the highest the hat,
what lies between a snare; with a lesson each sound is what the nearest taught sound is. (4) Velocity is the level
against others of its group.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ghoststep.listen.signal.onsets import candidates_s
from ghoststep.listen.signal.spectrum import LISTEN_RATE, Floats, band_matrix, bands_at
from ghoststep.listen.strokes.hearing import prepared
from ghoststep.music.errors import InputError
from ghoststep.music.kit import VOICE_INDEX, voice
from ghoststep.music.performance import Performance
from ghoststep.music.touch import velocity_of_level

_BANDS = 26
_BAND_HZ = np.exp(np.linspace(np.log(60), np.log(16000), _BANDS))
_MOMENTS_MS = (4, 14, 28, 45, 70, 110, 170)
_APART_S = 0.070  # the mouth needs so long between two sounds
_FAINT_DB = 26.0  # so far below the loud ones it is breath and no stroke
_USUAL_VELOCITY = 84.0
_MOST_GROUPS = 4
_LEAST_SILHOUETTE = 0.22
_LEAST_SHARE = 0.09  # of all sounds that a group holds
_LEAST_APART = 7.8  # of the middles of two groups; one person's "ts" differs by half of that from time to time
_LONG_S = 0.10  # a hiss that lasts longer is an open hat
_HISS_HZ, _THUD_HZ = 3800.0, 650.0
_PAUSE_S, _PAUSE_SHARE = 0.4, 1.4  # between a lesson and the phrase
NO_LESSON = "It begins with no lesson (single sounds, then a pause), so its sounds were told apart by themselves."


@dataclass(frozen=True, eq=False)
class Sounds:
    """Onsets of mouth sounds, in s; their shapes (n, k), peaks in dB, lengths in s and centres in Hz, (n,) each."""

    onset_s: NDArray[np.float64]
    shape: NDArray[np.float64]
    peak_db: NDArray[np.float64]
    length_s: NDArray[np.float64]
    centre_hz: NDArray[np.float64]

    def part(self, chosen: NDArray[np.bool_] | slice) -> "Sounds":
        fields = (self.onset_s, self.shape, self.peak_db, self.length_s, self.centre_hz)
        return Sounds(*(f[chosen] for f in fields))


@dataclass(frozen=True, eq=False)
class MouthHearing:
    """A phrase as heard, with the confidence of each hit (0 to 1)."""

    performance: Performance
    confidence: NDArray[np.float64]
    remarks: tuple[str, ...]


@dataclass(frozen=True, eq=False)
class Lesson:
    """Shapes with the voice each stands for; shape (n, k) and n voice names."""

    shape: NDArray[np.float64]
    voices: tuple[str, ...]


def hear_mouth(
    samples: NDArray[np.float32], rate: int, *, lesson: Lesson | None = None, taught: tuple[str, ...] = ()
) -> MouthHearing:
    """Hear a beatboxed phrase.

    Parameters
    ----------
    samples, rate
        The recording, shape (n,) or (n, channels).
    lesson
        Sounds taught by another recording, see `lesson_of`.
    taught
        Voices of the first sounds of this very recording, where it begins with a lesson: single sounds, then a pause.
        They teach and are not part of the phrase. Where it begins with the phrase at once, nothing is taken from it,
        and its sounds are told apart by themselves, as far as may be by these voices.

    Raises
    ------
    InputError
        Where there is no sound, or fewer than the lesson needs.
    """
    sound = prepared(samples, rate)
    found = sounds_of(sound)
    for name in taught:
        voice(name)
    remarks: tuple[str, ...] = ()
    if taught and lesson is None and not _begins_with_lesson(found, len(taught)):
        voices, confidence = _by_groups(found)
        voices = [_nearest_named(v, taught) for v in voices]
        remarks = (NO_LESSON,)
    elif taught:
        if len(found.onset_s) <= len(taught):
            raise InputError(
                f"Only {len(found.onset_s)} sounds were found, and the first {len(taught)} teach: no phrase is left."
            )
        lesson = Lesson(found.shape[: len(taught)], taught)
        found = found.part(slice(len(taught), None))
        voices, confidence = _by_lesson(found, lesson)
    else:
        voices, confidence = _by_lesson(found, lesson) if lesson is not None else _by_groups(found)
    velocity = _velocities(found, voices)
    performance = Performance.of(
        found.onset_s, [VOICE_INDEX[v] for v in voices], velocity, length_s=len(sound) / LISTEN_RATE
    )
    doubtful = ("The sounds do not fall into clear groups: teach them, or check their voices.",)
    return MouthHearing(performance, confidence, (*remarks, *(doubtful if confidence.mean() < 0.6 else ())))


def _begins_with_lesson(found: Sounds, count: int) -> bool:
    """Whether the first sounds stand apart from the rest, by a pause that no rest inside the phrase is as long as."""
    gaps = np.diff(found.onset_s)
    if len(found.onset_s) <= count:
        return True  # all of it teaches, which is said as trouble
    pause, rest = float(gaps[count - 1]), gaps[count:]
    usual = float(np.median(rest)) if len(rest) else 0.0
    return pause >= max(_PAUSE_S, _PAUSE_SHARE * usual) and pause > 1.05 * float(rest.max(initial=0.0))


def _nearest_named(name: str, taught: tuple[str, ...]) -> str:
    """A voice of those that were named: itself, one of its group, or what is named."""
    if name in taught:
        return name
    group = voice(name).group
    return next((t for t in taught if voice(t).group == group), name)


def lesson_of(samples: NDArray[np.float32], rate: int, voices: tuple[str, ...]) -> Lesson:
    """What a recording teaches in which the voices follow each other, each struck about equally often.

    The onsets are cut into as many runs as there are voices, where the sounds differ most.

    Raises
    ------
    InputError
        Where there are fewer sounds than voices, or no voice.
    """
    if not voices:
        raise InputError("A lesson needs the voices it teaches, in their order: kick,snare,hat_closed.")
    for name in voices:
        voice(name)
    found = sounds_of(prepared(samples, rate))
    if len(found.onset_s) < len(voices):
        raise InputError(f"The lesson holds {len(found.onset_s)} sounds, but {len(voices)} voices are to be learned.")
    ends = _runs(found.shape, len(voices))
    names: list[str] = []
    for name, (a, b) in zip(voices, ends, strict=True):
        names += [name] * (b - a)
    return Lesson(found.shape, tuple(names))


def sounds_of(sound: Floats) -> Sounds:
    """Every sound that stands out, with its shape.

    Raises
    ------
    InputError
        Where nothing stands out.
    """
    moments = candidates_s(sound)
    if not len(moments):
        raise InputError("Nothing in this sound begins like a stroke.")
    level = _levels_db(sound, moments)
    rise = level - _levels_db(sound, moments - 0.045)
    clear = (level > np.percentile(level, 90) - _FAINT_DB) & (rise > 4)
    moments, level = moments[clear], level[clear]
    kept: list[int] = []
    for i in np.argsort(-level, kind="stable"):
        if all(abs(moments[i] - moments[j]) >= _APART_S for j in kept):
            kept.append(int(i))
    if not kept:
        raise InputError("No sound in this recording stands out from the rest.")
    order = np.sort(np.array(kept))
    moments = moments[order]
    shape, length, centre = _shapes(sound, moments)
    return Sounds(moments, shape, _peaks_db(sound, moments), length, centre)


def _peaks_db(sound: Floats, moments_s: NDArray[np.float64]) -> NDArray[np.float64]:
    """The loudest 10 ms around each moment."""
    steps = np.arange(-0.02, 0.07, 0.005)
    return np.asarray(np.stack([_levels_db(sound, moments_s + s, time_s=0.010) for s in steps]).max(axis=0))


def _levels_db(sound: Floats, moments_s: NDArray[np.float64], *, time_s: float = 0.04) -> NDArray[np.float64]:
    total = np.concatenate([[0.0], np.cumsum(sound.astype(float) ** 2)])
    a = np.clip(np.rint(moments_s * LISTEN_RATE).astype(int), 0, len(sound))
    b = np.clip(a + round(time_s * LISTEN_RATE), 0, len(sound))
    return np.asarray(10 * np.log10((total[b] - total[a]) / np.maximum(b - a, 1) + 1e-10))


def _shapes(
    sound: Floats, moments_s: NDArray[np.float64]
) -> tuple[NDArray[np.float64], NDArray[np.float64], NDArray[np.float64]]:
    """Shape, length and centre of each sound."""
    centres = np.rint(moments_s * LISTEN_RATE).astype(np.int64)
    offsets = np.rint(np.array(_MOMENTS_MS) * LISTEN_RATE / 1000).astype(np.int64)
    matrix = band_matrix(1024, _BANDS, 60, 16000)
    bands = bands_at(sound, centres[:, None] + offsets, 1024, matrix).astype(float)
    attack = bands[:, :4].max(axis=1)
    spectrum = attack - attack.mean(axis=1, keepdims=True)
    loud = _undisturbed(bands.max(axis=2), moments_s)
    fall = loud - loud[:, :4].max(axis=1, keepdims=True)  # natural-log units below the attack
    lasting = fall > -1.8
    at_s = np.array(_MOMENTS_MS) / 1000
    length = np.where(lasting, at_s, 0).max(axis=1)
    power = np.exp(2 * attack)
    centre = np.exp((power * np.log(_BAND_HZ)).sum(axis=1) / power.sum(axis=1))
    # Once a sound is gone, how far under it the breath lies says nothing.
    ring = 3.5 * np.clip(fall[:, 4:], -2.2, 0)
    shape = np.concatenate([spectrum, ring, 2.0 * np.log(centre)[:, None]], axis=1)
    return shape, length, centre


def _undisturbed(loud: NDArray[np.float64], moments_s: NDArray[np.float64]) -> NDArray[np.float64]:
    """Loudness at the moments of each sound, the last before the next sound standing for those after it."""
    gap_s = np.diff(moments_s, append=np.inf)
    out = loud.copy()
    for k in range(1, loud.shape[1]):
        out[:, k] = np.where(np.array(_MOMENTS_MS[k]) / 1000 < gap_s - 0.015, loud[:, k], out[:, k - 1])
    return out


def _by_lesson(found: Sounds, lesson: Lesson) -> tuple[list[str], NDArray[np.float64]]:
    """The voice of the nearest taught sound, and how much nearer it is than the next voice."""
    names = tuple(dict.fromkeys(lesson.voices))
    taught = np.array(lesson.voices)
    middle = np.stack([lesson.shape[taught == n].mean(axis=0) for n in names])
    away = np.linalg.norm(found.shape[:, None] - middle, axis=2)
    best = away.argmin(axis=1)
    return [names[i] for i in best], _margins(away)


def _margins(away: NDArray[np.float64]) -> NDArray[np.float64]:
    if away.shape[1] < 2:
        return np.full(len(away), 0.7)
    near = np.sort(away, axis=1)
    return np.asarray(np.clip(1.15 * (1 - near[:, 0] / np.maximum(near[:, 1], 1e-9)) + 0.25, 0.05, 0.99))


def _by_groups(found: Sounds) -> tuple[list[str], NDArray[np.float64]]:
    """Groups the recording falls into, each named by where it lies."""
    groups, middle = _grouped(found.shape)
    names = _named(found, groups, len(middle))
    away = np.linalg.norm(found.shape[:, None] - middle, axis=2)
    voices = [names[g] for g in groups]
    hisses = np.array([v.startswith("hat") for v in voices])
    if hisses.any():
        short, long = found.length_s[hisses] < _LONG_S, found.length_s[hisses] >= _LONG_S
        # A group of hisses may hold short and long ones, which the grouping by colour does not part.
        if short.any() and long.any():
            for i, open_hat in zip(np.flatnonzero(hisses), long, strict=True):
                voices[i] = "hat_open" if open_hat else "hat_closed"
    return voices, _margins(away)


def _grouped(shape: NDArray[np.float64]) -> tuple[NDArray[np.int64], NDArray[np.float64]]:
    """The number of groups with the best silhouette, one where none is clear; labels (n,) and middles (groups, k)."""
    from scipy.cluster.vq import kmeans2

    best = (_LEAST_SILHOUETTE, np.zeros(len(shape), np.int64))
    for count in range(2, min(_MOST_GROUPS + 1, len(shape) - 1) + 1):
        for seed in range(8):
            labels = _without_strays(shape, kmeans2(shape, count, minit="++", seed=seed)[1])
            groups = len(np.unique(labels))
            if not 2 <= groups <= _MOST_GROUPS or _least_apart(shape, labels) < _LEAST_APART:
                continue
            score = _silhouette(shape, labels)
            # One more group has to be worth it, else chance splits a large one.
            if score > best[0] + (0.02 if groups > len(np.unique(best[1])) else 0.0):
                best = (score, labels)
    labels = best[1]
    return labels, np.stack([shape[labels == g].mean(axis=0) for g in np.unique(labels)])


def _without_strays(shape: NDArray[np.float64], labels: NDArray[np.integer]) -> NDArray[np.int64]:
    """A few odd ones are no sound of their own: they go to the nearest group that is one. Labels count from 0."""
    sizes = np.bincount(labels)
    large = np.flatnonzero(sizes >= max(2, int(_LEAST_SHARE * len(labels))))
    if not len(large):
        return np.zeros(len(labels), np.int64)
    middle = np.stack([shape[labels == g].mean(axis=0) for g in large])
    nearest = np.linalg.norm(shape[:, None] - middle, axis=2).argmin(axis=1)
    own = np.searchsorted(large, labels)
    return np.where(np.isin(labels, large), np.minimum(own, len(large) - 1), nearest).astype(np.int64)


def _least_apart(shape: NDArray[np.float64], labels: NDArray[np.int64]) -> float:
    middle = np.stack([shape[labels == g].mean(axis=0) for g in np.unique(labels)])
    away = np.linalg.norm(middle[:, None] - middle[None], axis=2)
    return float(away[~np.eye(len(middle), dtype=bool)].min())


def _silhouette(shape: NDArray[np.float64], labels: NDArray[np.int64]) -> float:
    """Mean silhouette (Rousseeuw 1987): how much nearer the own group is than the next."""
    away = np.linalg.norm(shape[:, None] - shape[None], axis=2)
    groups = np.unique(labels)
    to = np.stack([away[:, labels == g].sum(axis=1) for g in groups], axis=1)
    count = np.array([(labels == g).sum() for g in groups])
    own = labels[:, None] == groups
    inner = (to / np.maximum(count - own, 1))[own]
    outer = np.where(own, np.inf, to / count).min(axis=1)
    alone = count[np.searchsorted(groups, labels)] == 1
    return float(np.where(alone, 0.0, (outer - inner) / np.maximum(np.maximum(outer, inner), 1e-9)).mean())


def _named(found: Sounds, groups: NDArray[np.int64], count: int) -> list[str]:
    """Names for the groups, in their order: thuds are kicks, hisses hats, the rest snares."""
    centre = np.array([np.median(found.centre_hz[groups == g]) for g in range(count)])
    length = np.array([np.median(found.length_s[groups == g]) for g in range(count)])
    names = [""] * count
    order = [int(g) for g in np.argsort(centre)]
    if count == 1:
        return ["kick" if centre[0] < _THUD_HZ else "hat_closed" if centre[0] > _HISS_HZ else "snare"]
    names[order[0]] = "kick"
    rest = order[1:]
    hisses = [g for g in rest if centre[g] > _HISS_HZ] or ([rest[-1]] if len(rest) > 1 else [])
    if len(hisses) == len(rest) > 1 and centre[rest[0]] < 0.75 * centre[rest[-1]]:
        hisses = hisses[1:]  # all hiss, but the lowest of them stands for the snare
    for g in hisses:
        names[g] = "hat_open" if length[g] >= _LONG_S else "hat_closed"
    others = [g for g in rest if g not in hisses]
    for g, name in zip(sorted(others, key=lambda g: -length[g]), ("snare", "cross_stick", "tom_mid"), strict=False):
        names[g] = name
    return names


def _velocities(found: Sounds, voices: list[str]) -> list[int]:
    """By level against the middle of the same voice."""
    out = np.zeros(len(voices))
    named = np.array(voices)
    for name in set(voices):
        mine = named == name
        away = found.peak_db[mine] - np.median(found.peak_db[mine])
        usual = 40 * np.log10(_USUAL_VELOCITY / 127)
        out[mine] = velocity_of_level(usual + away)
    return [int(v) for v in np.clip(np.rint(out), 1, 127)]


def _runs(shape: NDArray[np.float64], count: int) -> list[tuple[int, int]]:
    """Cut a sequence into runs so that each is as much alike as can be (dynamic programming over the cuts)."""
    n = len(shape)
    total, square = np.zeros((n + 1, shape.shape[1])), np.zeros(n + 1)
    total[1:], square[1:] = np.cumsum(shape, axis=0), np.cumsum((shape**2).sum(axis=1))

    def cost(a: int, b: int) -> float:
        away = total[b] - total[a]
        return float(square[b] - square[a] - away @ away / (b - a))

    best = np.full((count + 1, n + 1), np.inf)
    came = np.zeros((count + 1, n + 1), int)
    best[0, 0] = 0.0
    for k in range(1, count + 1):
        for b in range(k, n + 1):
            options = [best[k - 1, a] + cost(a, b) for a in range(k - 1, b)]
            came[k, b] = k - 1 + int(np.argmin(options))
            best[k, b] = min(options)
    out, end = [], n
    for k in range(count, 0, -1):
        start = int(came[k, end])
        out.append((start, end))
        end = start
    return out[::-1]
