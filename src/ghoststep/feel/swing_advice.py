"""How much swing players use at a tempo, as a suggestion beside the user's own value."""

from ghoststep.music.feel import SWING_LIMITS
from ghoststep.music.time import checked_tempo_bpm

_SHORT_NOTE_S = 0.1  # at medium and fast tempi the short note stays near this


def usual_swing_ratio(tempo_bpm: float) -> float:
    """The usual share of the first eighth on a ride: 3:1 when slow, narrowing to 1:1 above 300 BPM.

    The short note stays near 100 ms (Friberg & Sundström 2002), so ratio = 1 - 0.1 s / beat, within 0.5 to 0.75.
    """
    beat_s = 60 / checked_tempo_bpm(tempo_bpm)
    return min(max(1 - _SHORT_NOTE_S / beat_s, SWING_LIMITS[0]), 0.75)
