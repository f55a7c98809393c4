"""The recording as its own template: how a candidate differs from the other strokes that sound like it.

Once a recording was heard, what its own hats, kicks, toms and cymbals sound like is known, alone and in every
combination. The mean of the other strokes of the same combination in which hardly a snare can be is taken off a
candidate's fine patch; what is left is what sounds with them: a ghost under a hat, or nothing. Hearing again sees this
beside the patch.
"""

import numpy as np
from numpy.typing import NDArray

from ghoststep.listen.signal.patches import PARTS
from ghoststep.listen.signal.spectrum import Floats

FINE = PARTS[0]
OWN_SIZE = FINE + 1  # the difference, and whether there was a template
OWN_SCALE = 5.0  # so that differences are about as large as the other inputs are spread
FEWEST = 2  # other strokes that make a template
# Log-odds: below the first there is hardly a snare, above the second another group is struck.
SNARELESS_ODDS, STRUCK_ODDS = -1.4, 0.0
_SNARE, _COMBINED = 1, (0, 2, 3, 4)  # of groups.NET_GROUPS: kick, hat, toms and cymbals make the combination


def against_own(patches: Floats, group_odds: Floats) -> Floats:
    """The difference of each fine patch to its template, scaled, and 1 where there is one; shape (n, OWN_SIZE).

    Parameters
    ----------
    patches
        Shape (n, PATCH_SIZE), as `patches.patches` gives them.
    group_odds
        Log-odds of each group being struck, of a first hearing; shape (n, groups).
    """
    fine = patches[:, :FINE]
    struck = group_odds[:, _COMBINED] > STRUCK_ODDS
    combination = struck @ (1 << np.arange(len(_COMBINED)))
    plain = (group_odds[:, _SNARE] < SNARELESS_ODDS) & (combination > 0)
    out = np.zeros((len(patches), OWN_SIZE), np.float32)
    for kind in np.unique(combination[combination > 0]):
        members = np.flatnonzero(combination == kind)
        mine = plain[members]
        others = int(mine.sum()) - mine  # each candidate itself left out
        has = others >= FEWEST
        if not has.any():
            continue
        total = fine[members[mine]].sum(axis=0, dtype=np.float64)
        own = np.where(mine[has, None], fine[members[has]], 0)
        out[members[has], :FINE] = OWN_SCALE * (fine[members[has]] - (total - own) / others[has, None])
        out[members[has], FINE] = 1
    return out


def template_shares(group_odds: NDArray[np.float64]) -> NDArray[np.float64]:
    """The same as a matrix for training: row i holds the share of each candidate in the template of i; shape (n, n)."""
    struck = group_odds[:, _COMBINED] > STRUCK_ODDS
    combination = struck @ (1 << np.arange(len(_COMBINED)))
    plain = (group_odds[:, _SNARE] < SNARELESS_ODDS) & (combination > 0)
    shares = ((combination[:, None] == combination) & (combination[:, None] > 0) & plain).astype(float)
    np.fill_diagonal(shares, 0)
    count = shares.sum(axis=1, keepdims=True)
    return np.where(count >= FEWEST, shares / np.maximum(count, 1), 0)
