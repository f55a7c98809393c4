"""The feel of a player, measured in what was played: swing, leans, spots, looseness, touch and spacing.

Steps: (1) how far each stroke lies from the straight grid; (2) swing of all and of each voice, from off notes against
on notes; (3) the mean of each voice is its lean, what a spot adds is pulled towards 0 by how little is known of it
(empirical Bayes: Efron & Morris 1975); (4) what is left is looseness: its spread, what limbs have in common, its
exponent; (5) velocities likewise, by voice, spot and role; (6) how far ahead grace notes lie.
"""

from collections import defaultdict
from collections.abc import Hashable, Sequence
from dataclasses import dataclass, field, replace
from typing import TypeVar

import numpy as np
from numpy.typing import NDArray

from ghoststep.feel.fluctuation import LEAST_STROKES, exponent
from ghoststep.feel.hands_measure import hands_of, pushes_of
from ghoststep.feel.ornaments import spelled_out
from ghoststep.feel.perform import perform
from ghoststep.feel.swing_measure import swings_of
from ghoststep.feel.touching import hand_shares
from ghoststep.music.errors import InputError
from ghoststep.music.feel import Feel
from ghoststep.music.groove import Groove
from ghoststep.music.kit import VOICE_NAMES
from ghoststep.music.pattern import Hit
from ghoststep.music.player import ROLE_ORDER, Spacing, SpotFeel, Touch, Wander
from ghoststep.music.touch import Role

Floats = NDArray[np.float64]
Key = tuple[str, int, int]  # voice, length of the bar and place in it, in ticks
_LEAST_PAIRS = 12  # strokes of two limbs together, from which their correlation is told
_LEAST_EACH = 30  # strokes of two kinds, from which their spreads are compared
_MOST_MS = 200.0
_STANDS_OUT_MS = 6.0  # from its voice, and is heard as displaced (Friberg & Sundberg 1995)
_FURTHEST = 0.5
_K = TypeVar("_K", bound=Hashable)


@dataclass(frozen=True)
class MeasuredSpot:
    """A voice on a spot of the bar: how many strokes, their mean lateness beyond swing in ms, and how sure that is."""

    voice: str
    bar_ticks: int
    at_ticks: int
    count: int
    late_ms: float
    error_ms: float  # standard error of the mean
    velocity: float


@dataclass(frozen=True)
class Measured:
    """A feel, and what it was read off.

    `loose_ms` is the spread of each voice around its spots; `shared` the correlation between limbs, None where too few
    strokes fall together; `exponent` None below 500 strokes.
    """

    feel: Feel
    spots: tuple[MeasuredSpot, ...] = ()
    counts: dict[str, int] = field(default_factory=dict)
    loose_ms: dict[str, float] = field(default_factory=dict)
    shared: float | None = None
    exponent: float | None = None
    finest_grid: int = 16  # the finest steps that are played, notes to a whole


@dataclass(frozen=True, eq=False)
class Heard:
    """Strokes with what they do: hits without grace notes, ms from the straight grid, velocities; shape (n,)."""

    groove: Groove
    hits: tuple[Hit, ...]
    late_ms: Floats
    velocity: Floats
    keys: tuple[Key, ...]

    @property
    def voices(self) -> NDArray[np.str_]:
        return np.array([h.voice for h in self.hits])


def measured(groove: Groove) -> Measured:
    """The feel of a groove as it is played.

    Raises
    ------
    InputError
        Where there is no stroke.
    """
    heard = strokes_of(groove)
    swings = swings_of(heard.hits, heard.late_ms, groove)
    beyond = heard.late_ms - swings.late_ms(heard.hits, groove)
    ticks = np.array([h.position_ticks for h in heard.hits], float)
    pushes = pushes_of(groove, ticks, _Means.of(heard.keys, beyond).left(heard.keys, beyond))
    beyond = beyond - pushes.late_ms  # what phrases do is neither lean nor looseness
    means = _Means.of(heard.keys, beyond)
    lean = {name: _tidy(ms) for name, ms in means.voices.items()}
    left = means.left(heard.keys, beyond)
    times_s = groove.tempo.seconds(ticks)
    hands = hands_of(heard.hits, heard.velocity, times_s)
    # Levels are those of the stronger hand's first strokes: the hands are played on top of them.
    shares = hand_shares(heard.hits, times_s, hands.on(Touch()))
    touch = _TouchMeans(replace(heard, velocity=np.minimum(heard.velocity / shares, 127.0)))
    feel = Feel(
        swings.swing,
        lean,
        _spread(left, heard.keys),
        balance_db={},
        swings=swings.own,
        spots=_spots(means, touch),
        wander=replace(
            _wander(heard, left, touch.left), push_percent=round(pushes.percent, 3), phrase_bars=pushes.bars
        ),
        touch=hands.on(Touch(touch.levels)),
        spacing=_spacing(groove),
    )
    by_voice = {v: _spread(left[mine], _of(heard.keys, mine)) for v, mine in _by(heard.voices).items()}
    return Measured(
        feel,
        tuple(_told(key, mine, beyond, heard) for key, mine in _groups(heard.keys).items()),
        {v: len(mine) for v, mine in _by(heard.voices).items()},
        by_voice,
        _shared(heard, left),
        _exponent(heard, left),
        _finest(heard.hits),
    )


def strokes_of(groove: Groove) -> Heard:
    """Every stroke with its lateness against the straight grid (ms) and its velocity, as performed.

    Raises
    ------
    InputError
        Where there is nothing to measure.
    """
    spelled = spelled_out(groove)
    played = perform(groove)
    straight_s = groove.tempo.seconds(np.array([h.position_ticks for h in spelled.pattern.hits], float))
    main = [i for i, h in enumerate(spelled.pattern.hits) if not h.grace and h.within is None]
    if not main:
        raise InputError("There is no stroke to measure a feel in.")
    hits = tuple(spelled.pattern.hits[i] for i in main)
    frame = groove.pattern.frame
    keys = []
    for h in hits:
        spot = frame.spot_at(h.position_ticks)
        keys.append((h.voice, frame.length_of(spot.bar), spot.tick))
    late_ms = 1000 * (played.onset_s - straight_s)[main]
    return Heard(groove, hits, np.clip(late_ms, -_MOST_MS, _MOST_MS), played.velocity[main].astype(float), tuple(keys))


def _by(names: NDArray[np.str_]) -> dict[str, NDArray[np.int64]]:
    return {name: np.flatnonzero(names == name) for name in VOICE_NAMES if (names == name).any()}


def _of(keys: Sequence[Key], mine: NDArray[np.int64]) -> list[Key]:
    return [keys[i] for i in mine]


def _groups(keys: Sequence[_K]) -> dict[_K, list[int]]:
    out: dict[_K, list[int]] = defaultdict(list)
    for i, key in enumerate(keys):
        out[key].append(i)
    return out


@dataclass(frozen=True)
class _Means:
    """Means of voices, and what each spot adds to that of its voice, pulled towards 0."""

    voices: dict[str, float]
    spots: dict[Key, float]

    @classmethod
    def of(cls, keys: Sequence[Key], values: Floats) -> "_Means":
        named = np.array([k[0] for k in keys])
        rows = _groups(keys)
        voices = {name: _usual(values, [rows[k] for k in rows if k[0] == name]) for name in _by(named)}
        away = values - np.array([voices[k[0]] for k in keys])
        spots: dict[Key, float] = {}
        grouped = _groups(keys)
        for name in voices:
            spots.update(shrunk({k: away[rows] for k, rows in grouped.items() if k[0] == name}))
        return cls(voices, spots)

    def left(self, keys: Sequence[Key], values: Floats) -> Floats:
        """What remains around the means of the spots as they are, shape (n,)."""
        out = values.copy()
        for rows in _groups(keys).values():
            out[rows] -= values[rows].mean()
        return out


def _usual(values: Floats, spots: Sequence[Sequence[int]]) -> float:
    """The mean of a voice without the spots that stand out of it: one pushed stroke is no lean of all of them."""
    means = np.array([values[list(rows)].mean() for rows in spots])
    counts = np.array([len(rows) for rows in spots])
    middle = float(np.median(np.repeat(means, counts)))
    near = np.abs(means - middle) <= _STANDS_OUT_MS
    outside = counts[~near].sum()
    if not outside or 2 * outside >= counts.sum() or np.ptp(means[near]) > _STANDS_OUT_MS / 2:
        near = np.ones(len(means), bool)
    return float(np.average(means[near], weights=counts[near]))


def shrunk(groups: dict[Key, Floats]) -> dict[Key, float]:
    """The means of groups, each pulled towards 0 by as much as chance alone could have made them differ.

    None is pulled by more than `_FURTHEST` of its own standard error, so that a habit that one spot alone has is not
    taken for chance (limited translation: Efron & Morris 1972).
    """
    counts = np.array([len(v) for v in groups.values()])
    means = np.array([v.mean() for v in groups.values()])
    within = sum(float(((v - v.mean()) ** 2).sum()) for v in groups.values()) / max(int((counts - 1).sum()), 1)
    if counts.max() < 2 or len(groups) < 2:  # nothing tells chance from habit
        return dict(zip(groups, means.tolist(), strict=True)) if len(groups) > 1 else dict.fromkeys(groups, 0.0)
    chance = within / counts
    between = max(float((means**2).mean() - chance.mean()), 0.0)
    pull = means * chance / np.maximum(between + chance, 1e-12)
    most = _FURTHEST * np.sqrt(chance)
    return dict(zip(groups, (means - np.clip(pull, -most, most)).tolist(), strict=True))


class _TouchMeans:
    """Velocities: of each role in each voice, of each role on each spot, and what is left around these."""

    def __init__(self, heard: Heard) -> None:
        velocity = heard.velocity
        rows = [(h.voice, h.role) for h in heard.hits]
        by_role = {key: float(velocity[mine].mean()) for key, mine in _groups(rows).items()}
        self.levels = tuple((name, role, min(max(v, 1.0), 127.0)) for (name, role), v in by_role.items())
        self.spots: dict[tuple[Key, Role], float] = {}
        self.left = velocity.copy()
        full = [(key, h.role) for key, h in zip(heard.keys, heard.hits, strict=True)]
        away = velocity - np.array([by_role[row] for row in rows])
        grouped = _groups(full)
        for name, role in dict.fromkeys(rows):
            mine = {key: away[i] for (key, r), i in grouped.items() if key[0] == name and r is role}
            self.spots.update({(key, role): by_role[name, role] + more for key, more in shrunk(mine).items()})
        for i in grouped.values():
            self.left[i] -= velocity[i].mean()


def _spots(means: _Means, touch: _TouchMeans) -> tuple[SpotFeel, ...]:
    out = []
    for key, late in means.spots.items():
        levels = [min(max(touch.spots.get((key, role), 0.0), 0.0), 127.0) for role in ROLE_ORDER]
        out.append(SpotFeel(*key, _tidy(late), (levels[0], levels[1], levels[2])))
    return tuple(out)


def _tidy(ms: float) -> float:
    return round(float(np.clip(ms, -_MOST_MS, _MOST_MS)), 4) + 0.0


def _spread(left: Floats, keys: Sequence[Hashable]) -> float:
    """Standard deviation around the spots' means, for as many strokes as those leave free."""
    free = len(left) - len(set(keys))
    return round(min(float(np.sqrt((left**2).sum() / free)), 50.0), 4) if free > 0 else 0.0


def _wander(heard: Heard, left: Floats, force_left: Floats) -> Wander:
    shared, b = _shared(heard, left), _exponent(heard, left)
    return Wander(
        exponent=1.0 if b is None else min(max(b, 0.0), 2.0),
        shared=0.64 if shared is None else shared,
        together=_together(heard, left),
        softer=_softer(heard, left),
        velocity=min(_spread(force_left, [(k, h.role) for k, h in zip(heard.keys, heard.hits, strict=True)]), 30.0),
        tempo_percent=_tempo_percent(heard.groove),
    )


def _shared(heard: Heard, left: Floats) -> float | None:
    """Correlation between limbs, over strokes of two limbs on one spot."""
    at: dict[int, dict[str, float]] = defaultdict(dict)
    for h, ms in zip(heard.hits, left.tolist(), strict=True):
        at[h.position_ticks].setdefault(h.limb_letter, ms)
    pairs = [(a, b) for row in at.values() for i, a in enumerate(row.values()) for b in list(row.values())[i + 1 :]]
    if len(pairs) < _LEAST_PAIRS:
        return None
    one, two = np.array(pairs).T
    size = float(np.sqrt((one**2).mean() * (two**2).mean()))
    return float(np.clip((one * two).mean() / size, 0, 1)) if size > 0 else None


def _exponent(heard: Heard, left: Floats) -> float | None:
    """Of the mean deviation at each moment that is struck, in order of time."""
    moments, at = np.unique([h.position_ticks for h in heard.hits], return_inverse=True)
    if len(moments) < LEAST_STROKES or not left.any():
        return None
    return exponent(np.bincount(at, left) / np.bincount(at))


def _together(heard: Heard, left: Floats) -> float:
    """The spread of strokes of several limbs at once against that of strokes alone."""
    counts: dict[int, set[str]] = defaultdict(set)
    for h in heard.hits:
        counts[h.position_ticks].add(h.limb_letter)
    both = np.array([len(counts[h.position_ticks]) > 1 for h in heard.hits])
    if both.sum() < _LEAST_EACH or (~both).sum() < _LEAST_EACH or left[~both].std() == 0:
        return 1.0
    return float(np.clip(left[both].std() / left[~both].std(), 0.3, 2.0))


def _softer(heard: Heard, left: Floats) -> float:
    """By how much ghosts are looser than other strokes, as `Wander.softer` counts it."""
    soft = np.array([h.role is Role.GHOST for h in heard.hits])
    if soft.sum() < _LEAST_EACH or (~soft).sum() < _LEAST_EACH or left[~soft].std() == 0:
        return 0.0
    ratio = left[soft].std() / left[~soft].std()
    a, b = 1 - heard.velocity[soft].mean() / 72, 1 - heard.velocity[~soft].mean() / 72
    return float(np.clip((ratio - 1) / max(a - ratio * b, 0.1), 0, 3))


def _tempo_percent(groove: Groove) -> float:
    """Standard deviation of the tempo from bar to bar, for a tempo that was followed and not written in steps."""
    if len(groove.tempo.bpm) < 3:
        return 0.0
    starts = groove.tempo.seconds(groove.pattern.frame.start_of(np.arange(1, groove.pattern.bars + 2)))
    lengths = np.diff(groove.pattern.frame.start_of(np.arange(1, groove.pattern.bars + 2)))
    bpm = lengths / np.diff(starts)
    return float(np.clip(100 * bpm.std() / bpm.mean(), 0, 5))


def _spacing(groove: Groove) -> Spacing:
    """How far ahead grace notes lie of the stroke they lead to."""
    spelled = spelled_out(groove)
    onset_s = perform(groove).onset_s
    main = {(h.position_ticks, h.voice): t for h, t in zip(spelled.pattern.hits, onset_s, strict=True) if not h.grace}
    leads: dict[tuple[int, str], list[float]] = defaultdict(list)
    for h, t in zip(spelled.pattern.hits, onset_s, strict=True):
        key = (h.position_ticks, h.voice)
        if h.grace and key in main:
            leads[key].append(1000 * (main[key] - t))
    flams = [row[0] for row in leads.values() if len(row) == 1 and 0 < row[0] <= 120]
    drags = [min(row) for row in leads.values() if len(row) > 1 and 0 < min(row) <= 120]
    spread = [np.std(row) for row in (flams, drags) if len(row) > 2]
    return Spacing(
        float(np.mean(flams)) if flams else 0.0,
        float(np.mean(drags)) if drags else 0.0,
        float(min(max(spread, default=0.0), 20.0)),
    )


def _told(key: Key, mine: list[int], beyond: Floats, heard: Heard) -> MeasuredSpot:
    error = float(beyond[mine].std(ddof=1) / np.sqrt(len(mine))) if len(mine) > 1 else float("inf")
    return MeasuredSpot(*key, len(mine), float(beyond[mine].mean()), error, float(heard.velocity[mine].mean()))


def _finest(hits: Sequence[Hit]) -> int:
    """The finest of the usual steps that is needed for these strokes, in notes to a whole."""
    for grid in (4, 8, 12, 16, 24, 32):
        if all(h.position_ticks % (80640 // grid) == 0 for h in hits):
            return grid
    return 64
