"""What begins with the recording itself: noise that was cut there begins like a soft stroke."""

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from ghoststep.listen.voicenet import Heard

# How long it is the beginning, and by how much in log-odds all is less sure there. A recording that is cut at a stroke
# begins with one that is sure beyond that.
_BEGINNING_S, _LESS_SURE = 0.005, 1.5


def less_sure_at_the_beginning(heard: Heard, moments_s: NDArray[np.float64]) -> Heard:
    """What was heard, with all that is told within the first milliseconds less sure.

    Parameters
    ----------
    moments_s
        The candidates in seconds, ascending, shape (n,).
    """
    first = int(np.searchsorted(moments_s, _BEGINNING_S))
    if not first:
        return heard
    odds = heard.group_odds.copy()
    odds[:first] -= _LESS_SURE
    return replace(heard, group_odds=odds)
