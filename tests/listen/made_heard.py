"""What a network might have heard, made by hand."""

from typing import Any

import numpy as np

from ghoststep.listen.signal.groups import NET_GROUPS
from ghoststep.listen.strokes.evidence import Evidence
from ghoststep.listen.strokes.network import Heard
from ghoststep.listen.strokes.own_strokes import FINE
from ghoststep.listen.strokes.rules.rule import Rule
from ghoststep.music.kit import HEARD_VOICES

KICK, SNARE, HAT, TOMS, CYMBALS = (NET_GROUPS.index(g) for g in ("kick", "snare", "hat", "toms", "cymbals"))
DICE = np.random.default_rng(11)
SOUNDS = {name: DICE.uniform(0.5, 2.5, FINE) for name in ("open hat", "ride")}


def heard_of(odds: list[dict[int, float]], sounds: list[str]) -> Heard:
    """Candidates with the log-odds told for each (-5 where none is), and the sound of each by its name in SOUNDS."""
    n = len(odds)
    group = np.full((n, len(NET_GROUPS)), -5, np.float32)
    for row, told in enumerate(odds):
        for g, x in told.items():
            group[row, g] = x
    flat = np.zeros((n, len(HEARD_VOICES)), np.float32)
    fine = np.array([SOUNDS[s] + 0.03 * DICE.standard_normal(FINE) for s in sounds], np.float16)
    return Heard(
        flat.copy(), flat + np.float32(80), flat.copy(), group, np.full((n, 2), -6, np.float32),
        flat[:, 0], flat[:, 0] - 6, flat[:, :1], np.zeros((n, len(NET_GROUPS))), fine,
    )  # fmt: skip


def after_rule(rule: Rule, heard: Heard, moments_s: np.ndarray | None = None, **known: Any) -> Heard:
    """What is heard once a rule was heard, at candidates half a second apart where no moments are given."""
    e = Evidence(0.5 * np.arange(len(heard.group_odds)) if moments_s is None else moments_s, heard, **known)
    return e.moved(rule.shift(e)).heard
