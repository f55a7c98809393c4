"""Which voices are struck at the candidate moments, how hard, exactly when and how: a small network run by NumPy.

Each candidate's patch goes through two dense layers; then a few blocks of attention over all candidates of the
recording let each be judged in the light of the others: the same drums, and the same spots of other bars. How far apart
two candidates lie is counted in bars once the bars are known, and in seconds before. Trained on playing we composed
ourselves (`tools/training`, docs/training.md).
"""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from functools import lru_cache
from importlib import resources
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ghoststep.listen.signal.groups import NET_GROUPS
from ghoststep.listen.signal.patches import PATCH_SIZE
from ghoststep.listen.strokes.own_strokes import FINE, against_own
from ghoststep.music.kit import HEARD_VOICES

Floats = NDArray[np.float32]
_LATE_SCALE_S, _LEAD_SCALE_S = 0.010, 0.030
MOST_LATE_S = 0.025  # that a stroke may lie from its candidate
_SECONDS_OF_A_BAR = 2.0
NETWORKS = ("voices-1.npz", "voices-2.npz", "voices-5.npz")  # by their seeds (docs/training.md)
# Attention looks at one stretch of candidates at a time, so that work grows linearly with the length.
_STRETCH, _MARGIN = 192, 48
_NOT_TOLD = -10.0  # log-odds of a candidate that was not heard yet
_LEAST_SCORE = np.float32(-30)  # less is nothing, and as a power of e it would be slow


@dataclass(frozen=True)
class Heard:
    """What the network says of n candidates; voice arrays (n, voices), group arrays (n, groups)."""

    voice_odds: Floats  # log-odds of being struck
    velocity: Floats  # 1 to 127, meaningful where struck
    late_s: Floats  # true moment minus candidate
    group_odds: Floats
    grace_odds: Floats  # (n, 2): a grace note ahead, a second one
    lead_s: Floats  # (n,) how far the first grace note is ahead
    buzz_odds: Floats  # (n,)
    inner: Floats  # (networks, n, width) what the first layer made of each patch, to be heard again
    level_db: NDArray[np.float64]  # (n, groups)
    fine: NDArray[np.float16]  # (n, FINE) the fine part of each patch, to be heard again
    given: Floats | None = None  # (n, groups) what else is known, in log-odds, as from a drum's own track


def probability_of(odds: Floats) -> NDArray[np.float64]:
    """Chances (0 to 1) of log-odds of any shape."""
    return np.asarray(1 / (1 + np.exp(-odds.astype(float))))


def odds_of(chance: NDArray[np.float64] | float) -> NDArray[np.float64]:
    """Log-odds of chances between 0 and 1 of any shape."""
    inside = np.asarray(chance, float)
    return np.asarray(np.log(inside / (1 - inside)))


def told_groups(group_odds: NDArray[np.floating], least: Mapping[str, float]) -> NDArray[np.bool_]:
    """Which of NET_GROUPS are told at each candidate, shape (n, groups).

    Parameters
    ----------
    group_odds
        Log-odds of NET_GROUPS, shape (n, groups).
    least
        The probability by group from which on a stroke is told.
    """
    return np.asarray(group_odds >= odds_of(np.array([least[group] for group in NET_GROUPS])))


def likeliest_voices(heard: Heard, group: str) -> NDArray[np.int64]:
    """Index of the voice of a group that each candidate is, if it is one of that group; shape (n,)."""
    members = np.array([v for v, voice in enumerate(HEARD_VOICES) if voice.group == group])
    return np.asarray(members[np.argmax(heard.voice_odds[:, members], axis=1)])


Weights = dict[str, Floats]


@lru_cache(maxsize=1)
def _networks() -> tuple[Weights, ...]:
    """Networks of one shape from different trainings; what they say is averaged."""
    return tuple(_weights(name) for name in NETWORKS)


def _weights(name: str) -> Weights:
    with (resources.files("ghoststep.listen") / "data" / name).open("rb") as file, np.load(file) as stored:
        weights = {key: stored[key].astype(np.float32) for key in stored.files}
    assert weights["first.weight"].shape[1] == PATCH_SIZE, f"{name} was trained for other patches"
    return weights


def hear(
    patches: Floats,
    moments_s: NDArray[np.float64],
    level_db: NDArray[np.float64],
    given: Floats | None = None,
) -> Heard:
    """Run the network on patches of shape (n, PATCH_SIZE), with no bars known.

    `given` is added to the log-odds of the groups now and whenever they are heard again.
    """
    inner = np.stack([patches @ w["first.weight"].T + w["first.bias"] for w in _networks()])
    kept = patches[:, :FINE].astype(np.float16)
    heard = _judged(inner, kept, moments_s / _SECONDS_OF_A_BAR, 0.0, level_db)
    return heard if given is None else replace(heard, group_odds=heard.group_odds + given, given=given)


def seen_besides(first: Heard, at: NDArray[np.int64], patches: Floats, level_db: NDArray[np.float64]) -> Heard:
    """What was heard with more candidates put in, of which nothing is told before they are heard in bars.

    Parameters
    ----------
    at
        Ahead of which of the first's candidates each of the m new ones is put, ascending, shape (m,).
    patches, level_db
        Of the new ones, shapes (m, PATCH_SIZE) and (m, groups).
    """

    def put_in(old: NDArray[Any], new: NDArray[Any] | float, axis: int = 0) -> NDArray[Any]:
        return np.insert(old, at, new, axis=axis)

    inner = np.stack([patches @ w["first.weight"].T + w["first.bias"] for w in _networks()])
    return Heard(
        voice_odds=put_in(first.voice_odds, _NOT_TOLD),
        velocity=put_in(first.velocity, 64),
        late_s=put_in(first.late_s, 0),
        group_odds=put_in(first.group_odds, _NOT_TOLD),
        grace_odds=put_in(first.grace_odds, _NOT_TOLD),
        lead_s=put_in(first.lead_s, 0),
        buzz_odds=put_in(first.buzz_odds, _NOT_TOLD),
        inner=put_in(first.inner, inner, axis=1),
        level_db=put_in(first.level_db, level_db),
        fine=put_in(first.fine, patches[:, :FINE].astype(np.float16)),
        given=None if first.given is None else put_in(first.given, 0),
    )


def hear_in_bars(first: Heard, bars: NDArray[np.float64]) -> Heard:
    """The same candidates again, now that the place of each in bars is known (shape (n,), fractional), and what the
    recording's own strokes sound like.
    """
    own = against_own(first.fine.astype(np.float32), first.group_odds)
    inner = np.stack([x + own @ w["own.weight"].T for x, w in zip(first.inner, _networks(), strict=True)])
    again = _judged(inner, first.fine, bars, 1.0, first.level_db)
    odds = again.group_odds if first.given is None else again.group_odds + first.given
    return replace(again, inner=first.inner, group_odds=odds, given=first.given)


def _judged(
    inner: Floats,
    fine: NDArray[np.float16],
    place: NDArray[np.float64],
    known: float,
    level_db: NDArray[np.float64],
) -> Heard:
    voices = len(HEARD_VOICES)
    out = np.mean([_said(w, part, place, known) for w, part in zip(_networks(), inner, strict=True)], axis=0)
    groups = out[:, 3 * voices : 3 * voices + len(NET_GROUPS)]
    grace1, grace2, lead, buzz = out[:, 3 * voices + len(NET_GROUPS) :].T
    return Heard(
        voice_odds=out[:, :voices],
        velocity=np.clip(out[:, voices : 2 * voices] * 127, 1, 127),
        late_s=np.clip(out[:, 2 * voices : 3 * voices] * _LATE_SCALE_S, -MOST_LATE_S, MOST_LATE_S),
        group_odds=groups,
        grace_odds=np.stack([grace1, grace2], axis=1),
        lead_s=np.clip(lead * _LEAD_SCALE_S, 0.010, 0.060),
        buzz_odds=buzz,
        inner=inner,
        fine=fine,
        level_db=level_db,
    )


def _said(w: Weights, inner: Floats, place: NDArray[np.float64], known: float) -> Floats:
    """What one network says of all candidates; shape (n, outputs)."""
    dense = w["second.weight"]
    x = np.maximum(inner, 0) @ dense[:, :-1].T + (w["second.bias"] + known * dense[:, -1])
    return np.concatenate([_attended(w, x[a:b], place[a:b])[keep] for a, b, keep in _stretches(len(x))])


def _stretches(count: int) -> list[tuple[int, int, slice]]:
    """Overlapping stretches of candidates and the part of each that counts."""
    if count <= _STRETCH + 2 * _MARGIN:
        return [(0, count, slice(0, count))]
    out = []
    for start in range(0, count, _STRETCH):
        a, b = max(0, start - _MARGIN), min(count, start + _STRETCH + _MARGIN)
        out.append((a, b, slice(start - a, min(start + _STRETCH, count) - a)))
    return out


def _attended(w: Weights, x: Floats, place: NDArray[np.float64]) -> Floats:
    """The blocks of attention and the last layer over one stretch; shape (n, outputs)."""
    angle = 2 * np.pi * (place - place.mean())[:, None] / w["waves"]
    cos, sin = np.cos(angle).astype(np.float32), np.sin(angle).astype(np.float32)
    block = 0
    while f"blocks.{block}.qkv.weight" in w:
        x = _block(w, x, cos, sin, f"blocks.{block}.")
        block += 1
    return _dense(w, _normed(w, x, "norm"), "out")


def _block(w: Weights, x: Floats, cos: Floats, sin: Floats, name: str) -> Floats:
    n, heads = len(x), int(w["heads"])
    qkv = _dense(w, _normed(w, x, name + "norm1"), name + "qkv").reshape(n, 3, heads, -1).transpose(1, 2, 0, 3)
    q, k, v = _turned(qkv[0], cos, sin), _turned(qkv[1], cos, sin), qkv[2]
    score = q @ k.transpose(0, 2, 1) / np.float32(np.sqrt(q.shape[-1]))  # single precision throughout
    share = np.exp(np.maximum(score - score.max(axis=-1, keepdims=True), _LEAST_SCORE))
    share /= share.sum(axis=-1, keepdims=True)
    x = x + _dense(w, (share @ v).transpose(1, 0, 2).reshape(n, -1), name + "mix")
    wide = np.maximum(_dense(w, _normed(w, x, name + "norm2"), name + "wide"), 0)
    return np.asarray(x + _dense(w, wide, name + "narrow"))


def _turned(a: Floats, cos: Floats, sin: Floats) -> Floats:
    """Pairs of numbers rotated by the place in time (rotary embedding, Su et al. 2021)."""
    width = cos.shape[1]
    one, two, rest = a[..., :width], a[..., width : 2 * width], a[..., 2 * width :]
    return np.concatenate([one * cos - two * sin, one * sin + two * cos, rest], axis=-1)


def _normed(w: Weights, x: Floats, name: str) -> Floats:
    away = x - x.mean(axis=-1, keepdims=True)
    spread = np.sqrt((away**2).mean(axis=-1, keepdims=True) + 1e-5)
    return np.asarray(away / spread * w[name + ".weight"] + w[name + ".bias"])


def _dense(w: Weights, x: Floats, name: str) -> Floats:
    return np.asarray(x @ w[name + ".weight"].T + w[name + ".bias"])
