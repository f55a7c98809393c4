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
