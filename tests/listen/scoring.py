"""A small scorer of our own: hits matched one to one within 30 ms."""

import numpy as np
from scipy.optimize import linear_sum_assignment

from ghoststep.music.kit import voice


def matched(truth: list[float], found: list[float], *, within_s: float = 0.03) -> int:
    if not truth or not found:
        return 0
    away = np.abs(np.subtract.outer(truth, found))
    i, j = linear_sum_assignment(np.where(away <= within_s, away, 1e3))
    return int((away[i, j] <= within_s).sum())


def f_measure(truth: list[dict], found: list[dict], groups: tuple[str, ...]) -> float:
    """F-measure over the pooled hits of some groups; rows have time_s and voice."""
    hits = total = 0
    for group in groups:
        a, b = ([r["time_s"] for r in rows if voice(r["voice"]).group == group] for rows in (truth, found))
        hits, total = hits + matched(a, b), total + len(a) + len(b)
    return 2 * hits / max(total, 1)


def placed(truth: list[dict], found: list[dict]) -> float:
    """Share of true hits found with the right group, bar and position."""
    right = 0
    for row in truth:
        right += any(
            abs(row["time_s"] - other["time_s"]) <= 0.03
            and voice(row["voice"]).group == voice(other["voice"]).group
            and (row["bar"], row["position_beats"]) == (other["bar"], other["position_beats"])
            for other in found
        )
    return right / len(truth)
