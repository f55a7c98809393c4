"""What the pictures of a feel show: deviations over the bars, where off notes fall, velocities by spot."""

from collections.abc import Iterable
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from ghoststep.feel.measure import strokes_of
from ghoststep.feel.swing_measure import swing_late_ms
from ghoststep.music.feel import Swing
from ghoststep.music.groove import Groove
from ghoststep.music.kit import VOICE_NAMES
from ghoststep.music.time import TICKS_PER_WHOLE

Floats = NDArray[np.float64]
# Nobody hears less: about 6 ms where notes are less than 240 ms apart, 2.5 % of the interval above (Friberg & Sundberg
# 1995).
UNHEARD_MS, _SHORT_MS, _UNHEARD_SHARE = 6.0, 240.0, 0.025
_LEAST_FOR_LINE = 8


def unheard_ms(groove: Groove) -> float:
    """The deviation that nobody hears at this groove's tempo and grid."""
    step_ms = 1000 * groove.tempo.tick_seconds(0) * TICKS_PER_WHOLE / groove.pattern.grid
    return UNHEARD_MS if step_ms < _SHORT_MS else _UNHEARD_SHARE * step_ms


@dataclass(frozen=True, eq=False)
class Pocket:
    """A voice over the bars: where each stroke stands (bars from 1) and how late it is beyond swing (ms).

    `line_ms` is its slow drift at the same strokes, empty where there are too few.
    """

    voice: str
    bars: Floats
    late_ms: Floats
    mean_ms: float
    spread_ms: float
    line_ms: Floats = field(default_factory=lambda: np.zeros(0))


def pockets(groove: Groove) -> list[Pocket]:
    """Each voice's strokes against its swung grid."""
    heard = strokes_of(groove)
    frame, feel = groove.pattern.frame, groove.feel
    ticks = np.array([h.position_ticks for h in heard.hits])
    bar = frame.bars_of(ticks)
    starts = frame.start_of(bar)
    place = bar.astype(float) + (ticks - starts) / (frame.start_of(bar + 1) - starts)
    beyond = heard.late_ms - swing_late_ms(heard.hits, feel.swing_of, groove)
    out = []
    for name in _used(h.voice for h in heard.hits):
        mine = np.flatnonzero([h.voice == name for h in heard.hits])
        ms = beyond[mine]
        line = _smooth(ms) if len(mine) >= _LEAST_FOR_LINE else np.zeros(0)
        out.append(Pocket(name, place[mine], ms, float(ms.mean()), float(ms.std()), line))
    return out


def _smooth(values: Floats) -> Floats:
    """A running mean over a quarter of the strokes."""
    width = max(len(values) // 4, 3) | 1
    padded = np.pad(values, width // 2, mode="reflect" if len(values) > width // 2 else "edge")
    return np.convolve(padded, np.ones(width) / width, mode="valid")


@dataclass(frozen=True, eq=False)
class OffNotes:
    """Where a voice's off notes fall: as shares of the pair, shape (n,)."""

    voice: str
    shares: Floats


def off_notes(groove: Groove, unit: int) -> list[OffNotes]:
    """For each voice, the share of the pair of `unit` notes that comes before its off note, its lean left aside."""
    heard = strokes_of(groove)
    lean_ms = {p.voice: p.mean_ms for p in pockets(groove)}
    frame, tempo = groove.pattern.frame, groove.tempo
    full = Swing(unit, 0.75)
    step = TICKS_PER_WHOLE // unit
    rows: dict[str, list[float]] = {}
    ticks = np.array([h.position_ticks for h in heard.hits], float)
    off = np.abs(full.bend(ticks, frame) - ticks - 0.5 * step) <= 1  # the off notes of this lattice
    for i in np.flatnonzero(off).tolist():
        h = heard.hits[i]
        step_ms = 1000 * tempo.tick_seconds(h.position_ticks) * step
        rows.setdefault(h.voice, []).append(0.5 + (float(heard.late_ms[i]) - lean_ms[h.voice]) / (2 * step_ms))
    return [OffNotes(name, np.array(rows[name])) for name in _used(rows)]


@dataclass(frozen=True, eq=False)
class TouchRow:
    """A voice's velocities by the place in the bar: places in quarters, velocities, and which are ghosts."""

    voice: str
    quarters: Floats
    velocity: Floats
    ghost: NDArray[np.bool_]


def touches(groove: Groove) -> list[TouchRow]:
    """Velocities of each voice by spot, as they are played."""
    heard = strokes_of(groove)
    out = []
    for name in _used(h.voice for h in heard.hits):
        mine = [i for i, h in enumerate(heard.hits) if h.voice == name]
        places = np.array([heard.keys[i][2] for i in mine]) * 4 / TICKS_PER_WHOLE
        ghosts = np.array([heard.hits[i].role == "ghost" for i in mine])
        out.append(TouchRow(name, places, heard.velocity[mine], ghosts))
    return out


def _used(names: Iterable[str]) -> list[str]:
    known = set(names)
    return [name for name in VOICE_NAMES if name in known]
