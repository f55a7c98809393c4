"""Strokes from what was heard at the candidates: doubles of one stroke merged, grace notes set ahead of their own."""

from bisect import bisect_left
from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ghoststep.listen.signal.groups import NET_GROUPS
from ghoststep.listen.signal.loudness import unmasked, velocities
from ghoststep.listen.strokes.evidence import less_of_hats_with_snares
from ghoststep.listen.strokes.network import Heard, likeliest_voices, probability_of
from ghoststep.listen.strokes.no_kit import sureness
from ghoststep.music.kit import VOICES

_DOUBLE_S = 0.030
_GRACE_THRESHOLD, _BUZZ_THRESHOLD = 0.5, 0.5
_LEAST_FLAMMED = 46  # softer strokes carry no grace note
_GRACE_SHARE = 0.4  # of its main stroke's velocity that a grace note has
_GRACE_APART_S = 0.012


@dataclass(frozen=True, order=True)
class Stroke:
    """A stroke or a grace note: its moment in s, voice by number, velocity (1 to 127) and how sure it is (0 to 1)."""

    time_s: float
    voice: int
    velocity: int
    confidence: float
    leads_s: tuple[float, ...] = ()  # of grace notes ahead of it
    grace_confidence: float = 0.0
    buzz: bool = False
    like_a_kit: float = 1.0  # less for sounds of no kit, which are less sure


def strokes_told(moments: NDArray[np.float64], heard: Heard, limits: Mapping[str, float]) -> list[Stroke]:
    """Every main stroke in the order of time, one for each candidate and group that is struck, doubles merged.

    Parameters
    ----------
    moments
        Candidates in s, ascending, shape (n,).
    limits
        The probability by group from which on a stroke is told.
    """
    chance = probability_of(less_of_hats_with_snares(heard.group_odds))
    grace, buzz = probability_of(heard.grace_odds), probability_of(heard.buzz_odds)
    like_a_kit = sureness(heard, chance >= [limits[group] for group in NET_GROUPS])
    out: list[Stroke] = []
    for g, group in enumerate(NET_GROUPS):
        struck = np.flatnonzero(chance[:, g] >= limits[group])
        voices = likeliest_voices(heard, group)[struck]
        loud = np.zeros(len(struck))
        for v in np.unique(voices):
            mine = voices == v
            at = struck[mine]
            alone = np.delete(chance[at], g, axis=1).max(axis=1) < 0.5
            level_db = (
                heard.level_db[at, g] if group == "hat" else unmasked(group, heard.level_db[at], chance[at] >= 0.5)
            )
            loud[mine] = velocities(heard.velocity[at, v].astype(float), level_db, alone)
        strokes = []
        for i, v, x in zip(struck, voices, loud, strict=True):
            drum = group in ("snare", "toms") and VOICES[v].name != "cross_stick"
            leads = _leads(grace[i], float(heard.lead_s[i])) if drum and x >= _LEAST_FLAMMED else ()
            strokes.append(Stroke(
                float(moments[i] + heard.late_s[i, v]), int(v), min(max(round(x), 1), 127), float(chance[i, g]),
                leads, float(grace[i, 0]), VOICES[v].name == "snare" and bool(buzz[i] >= _BUZZ_THRESHOLD),
                float(like_a_kit[i, g]),
            ))  # fmt: skip
        out += _merged(strokes)
    return sorted(out)


def _leads(grace: NDArray[np.float64], lead_s: float) -> tuple[float, ...]:
    """How far ahead the grace notes lie: one for a flam, two for a drag."""
    if grace[0] < _GRACE_THRESHOLD:
        return ()
    return (lead_s,) if grace[1] < _GRACE_THRESHOLD else (lead_s, 2 * lead_s)


def _merged(strokes: list[Stroke]) -> list[Stroke]:
    """One stroke seen from two candidates becomes one; the surer view is kept."""
    kept: list[Stroke] = []
    times_s: list[float] = []  # of those kept, ascending
    for stroke in sorted(strokes, key=lambda s: -s.confidence):
        at = bisect_left(times_s, stroke.time_s)
        if all(abs(stroke.time_s - other) >= _DOUBLE_S for other in times_s[max(at - 1, 0) : at + 1]):
            kept.append(stroke)
            times_s.insert(at, stroke.time_s)
    return kept


def with_graces(strokes: list[Stroke]) -> list[Stroke]:
    """Grace notes as strokes of their own, unless one was heard at their moment already."""
    out = list(strokes)
    for s in strokes:
        for lead_s in s.leads_s:
            at = s.time_s - lead_s
            taken = any(o.voice == s.voice and abs(o.time_s - at) < _GRACE_APART_S for o in strokes)
            if at > 0 and not taken:
                soft = max(1, round(min(_GRACE_SHARE * s.velocity, 45)))
                out.append(Stroke(at, s.voice, soft, s.grace_confidence, like_a_kit=s.like_a_kit))
    return sorted(out)
