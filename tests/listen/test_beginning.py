"""What begins with the recording itself is less sure to be a stroke."""

import numpy as np
import pytest
from tests.listen.made_heard import HAT, after_rule, heard_of

from ghoststep.listen.strokes.rules.beginning import Beginning


def test_what_is_told_in_the_first_milliseconds_is_less_sure() -> None:
    heard = heard_of([{HAT: -0.4}, {HAT: 6.0}, {HAT: -0.4}], ["open hat"] * 3)
    found = after_rule(Beginning(), heard, np.array([0.0, 0.004, 0.006])).group_odds
    assert found[:, HAT] == pytest.approx([-1.9, 4.5, -0.4])
    assert heard.group_odds[0, HAT] == pytest.approx(-0.4)  # that is left as it was


def test_what_begins_later_stays() -> None:
    heard = heard_of([{HAT: -0.4}] * 2, ["open hat"] * 2)
    assert after_rule(Beginning(), heard, np.array([0.02, 0.5])) is heard
