"""What is told and what is only offered: soft snares, and hats under a sure stroke, need to be surer."""

import numpy as np

from ghoststep.listen.strokes.hearing import LIMITS, _certain
from ghoststep.listen.strokes.strokes import Stroke
from ghoststep.music.kit import VOICE_INDEX


def strokes(*rows: tuple[float, str, float]) -> list[Stroke]:
    """A beat of sure kicks, and these: (second, voice, how sure)."""
    sure = [Stroke(0.5 * k, VOICE_INDEX["kick"], 100, 0.95) for k in range(14)]
    return sorted([*sure, *(Stroke(t, VOICE_INDEX[v], 40, c) for t, v, c in rows)], key=lambda s: s.time_s)


def told(found: list[Stroke]) -> set[float]:
    kick = VOICE_INDEX["kick"]
    return {round(s.time_s, 3) for s in _certain(found, LIMITS) if s.voice != kick}


def test_soft_snares_are_told_from_two_thirds_on() -> None:
    assert told(strokes((0.25, "snare", 0.6), (1.25, "snare", 0.7))) == {1.25}


def test_hats_alone_are_told_and_under_a_sure_stroke_only_the_surer() -> None:
    assert told(strokes((0.25, "hat_closed", 0.3), (1.0, "hat_closed", 0.3), (2.01, "hat_closed", 0.7))) == {0.25, 2.01}
    assert told(strokes((1.0, "hat_pedal", 0.3))) == {1.0}  # a foot is told by all its strokes together


def test_where_little_is_sure_nothing_is_left_out() -> None:
    few = [Stroke(float(t), VOICE_INDEX["snare"], 40, 0.5) for t in np.arange(8)]
    assert _certain(few, LIMITS) == few
    doubtful = [Stroke(float(t), VOICE_INDEX["snare"], 40, 0.5) for t in np.arange(20)]
    assert _certain(doubtful, LIMITS) == doubtful
