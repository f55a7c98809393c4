"""What rings on is no snare: a check by physics beside the network, for metal of a kind it never heard.

A snare stroke has lost most of its middle range after 150 ms, in any room short of a cathedral; an open hat or a ride
has not. Where the network hears a snare by itself that goes on ringing, it is an open hat (or a ride, if it thinks that
likelier).
"""

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from ghoststep.listen.patches import BANDS, OFFSETS_MS, PARTS
from ghoststep.listen.spectrum import Floats
from ghoststep.listen.voicenet import NET_GROUPS, Heard
from ghoststep.music.kit import VOICE_INDEX

_EARLY_MS, _LATE_MS = (16, 23, 30), (140, 180)
_MIDDLE = slice(14, 42)  # of the bands: about 400 Hz to 9 kHz
_LONGEST_FALL = 0.85  # natural-log units of amplitude between early and late: 7 dB
_LEAST_OVER = 0.7  # that the late part stands over what was before
_UNDISTURBED_S = 0.19
_FEWEST = 3  # of them in a recording: metal comes in rows, and a lone one may be a ghost in a ringing crash
_NO = -3.0
# A second bump: how long after the stroke, how exactly, and how many of the strokes have one.
_BUMP_S, _EXACT_S, _STEP_S = (0.045, 0.150), 0.003, 0.010
_FEWEST_BUMPS, _BUMP_SHARE, _SOFT = 5, 0.5, 64


def falls(raw: Floats) -> Floats:
    """How far the middle range has fallen after 150 ms, in natural-log units of amplitude; shape (n,).

    Infinite where it is not clearly above what sounded before the stroke: then it may be that, and not the stroke.
    """
    fine = raw[:, : PARTS[0]].reshape(len(raw), len(OFFSETS_MS), BANDS)[:, :, _MIDDLE]
    early = fine[:, [OFFSETS_MS.index(ms) for ms in _EARLY_MS]].max(axis=1)
    late = fine[:, [OFFSETS_MS.index(ms) for ms in _LATE_MS]].mean(axis=1)
    before = fine[:, : OFFSETS_MS.index(-10) + 1].mean(axis=1)
    over = (late - before).mean(axis=1)
    return np.where(over > _LEAST_OVER, (early - late).mean(axis=1), np.inf).astype(np.float32)


def without_second_bumps(heard: Heard, moments_s: NDArray[np.float64], quarter_s: float) -> Heard:
    """Soft snares that follow nearly every stroke of the hats at one and the same lag are no snares.

    The two halves of a half-open hat meet a second time, as exactly as a machine; a hand is never that exact. A lag
    that is a step of the grid is left alone.
    """
    snare = NET_GROUPS.index("snare")
    struck = heard.group_odds > 0
    soft = np.flatnonzero(struck[:, snare] & (heard.velocity[:, VOICE_INDEX["snare"]] < _SOFT))
    groups, changed = heard.group_odds, False
    for name in ("hat", "cymbals"):
        first = np.flatnonzero(struck[:, NET_GROUPS.index(name)])
        if len(first) < _FEWEST_BUMPS or len(soft) < _FEWEST_BUMPS:
            continue
        lag_s, theirs = _common_lag(moments_s[first], moments_s[soft])
        rare = lag_s is None or len(theirs) < max(_FEWEST_BUMPS, _BUMP_SHARE * len(first))
        if rare or lag_s is None or _is_step(lag_s, quarter_s):
            continue
        groups = groups.copy() if not changed else groups
        groups[soft[theirs], snare], changed = _NO, True
    return replace(heard, group_odds=groups) if changed else heard


def _common_lag(first_s: NDArray[np.float64], later_s: NDArray[np.float64]) -> tuple[float | None, NDArray[np.int64]]:
    """The lag at which most of the later moments follow one of the first, and which of them do."""
    before = np.searchsorted(first_s, later_s - _BUMP_S[0], side="right") - 1
    lag = np.where(before >= 0, later_s - first_s[np.maximum(before, 0)], np.inf)
    inside = np.sort(lag[lag < _BUMP_S[1]])
    if not len(inside):
        return None, np.zeros(0, np.int64)
    counts = np.searchsorted(inside, inside + 2 * _EXACT_S, side="right") - np.arange(len(inside))
    start = inside[int(np.argmax(counts))]
    theirs = np.flatnonzero((lag >= start) & (lag <= start + 2 * _EXACT_S))
    return float(np.median(lag[theirs])), theirs


def _is_step(lag_s: float, quarter_s: float) -> bool:
    return any(abs(lag_s - quarter_s * part) < _STEP_S for part in (1 / 2, 1 / 3, 1 / 4, 1 / 8))


def without_ringing_snares(heard: Heard, moments_s: NDArray[np.float64]) -> Heard:
    """Snares that ring on, with nothing else sounding at the time, become what rings."""
    snare, hat, cymbals = (NET_GROUPS.index(g) for g in ("snare", "hat", "cymbals"))
    struck = heard.group_odds > 0
    others = np.delete(struck, snare, axis=1).any(axis=1)
    at = moments_s[struck.any(axis=1)]
    following = np.append(at, np.inf)[np.searchsorted(at, moments_s + 0.03)]
    rings = struck[:, snare] & ~others & (heard.fall < _LONGEST_FALL) & (following - moments_s > _UNDISTURBED_S)
    rings &= heard.voice_odds[:, VOICE_INDEX["snare"]] > heard.voice_odds[:, VOICE_INDEX["cross_stick"]]
    if rings.sum() < _FEWEST:
        return heard
    groups, voices, velocity = heard.group_odds.copy(), heard.voice_odds.copy(), heard.velocity.copy()
    was = groups[rings, snare]
    # A kit with a hat to close has one to open; a recording without hats has a ride.
    group, name = (hat, "hat_open") if struck[:, hat].sum() >= struck[:, cymbals].sum() else (cymbals, "ride")
    groups[rings, snare] = _NO
    groups[rings, group] = np.maximum(was, groups[rings, group])
    voices[rings, VOICE_INDEX[name]] = voices[rings].max(axis=1) + 1
    # As a snare it sounded soft, which it need not be as what it is: the louder of the two guesses is kept.
    velocity[rings, VOICE_INDEX[name]] = np.maximum(
        heard.velocity[rings, VOICE_INDEX["snare"]], heard.velocity[rings, VOICE_INDEX[name]]
    )
    return replace(heard, group_odds=groups, voice_odds=voices, velocity=velocity)
