import numpy as np
import pytest

from ghoststep.craft.accents import accented
from ghoststep.craft.balance import BALANCES, balanced, current
from ghoststep.feel.perform import perform
from ghoststep.files.textgrid import parse_grid
from ghoststep.music.errors import InputError
from ghoststep.music.groove import Groove
from ghoststep.music.kit import VOICES
from ghoststep.music.touch import level_db


def spots(text: str, shape: str) -> list[float]:
    groove = parse_grid(text)
    unit = groove.pattern.meter.unit_ticks
    return sorted(t / unit for t in accented(groove.pattern.hits, shape, groove.pattern.meter))


def test_shapes_follow_the_meter() -> None:
    four = "hat_closed xxxxxxxxxxxxxxxx"
    assert spots(four, "beat") == [0, 1, 2, 3] and spots(four, "off-beat") == [0.5, 1.5, 2.5, 3.5]
    assert spots(four, "backbeat") == [1, 3] and spots(four, "every 3")[:3] == [0, 0.75, 1.5]
    assert spots(four, "every 3 from 2")[:2] == [0.25, 1.0]
    seven = "meter 7/8 2+2+3\ngrid 16\nhat_closed xxxxxxxxxxxxxx"
    assert spots(seven, "groups") == [0, 2, 4] and spots(seven, "backbeat") == [2]
    for wrong in ("swirl", "every 0", "every 3 from 0"):
        with pytest.raises(InputError, match="no accent shape"):
            spots(four, wrong)


def middle_db(groove: Groove, group: str) -> float:
    played = perform(groove)
    mine = [v for v, i in zip(played.velocity, played.voice, strict=True) if VOICES[i].group == group and v > 45]
    return float(level_db(float(np.median(mine))))


def test_a_balance_puts_groups_where_it_says(grid_text: str) -> None:
    groove = parse_grid(grid_text)
    for name, wanted in BALANCES.items():
        if not wanted:
            assert balanced(groove, name) == {}
            continue
        moved = groove.changed(feel=type(groove.feel)(balance_db=balanced(groove, name)))
        assert current(moved) == name
        for group in ("kick", "snare", "hat"):
            apart = middle_db(moved, group) - middle_db(moved, "kick")
            assert apart == pytest.approx(wanted[group] - wanted["kick"], abs=0.5), (name, group)
        # Nothing is pushed up, and the pattern keeps what it was.
        assert all(db <= 0 for db in moved.feel.balance_db.values()) and moved.pattern is groove.pattern
    with pytest.raises(InputError, match="kick-led"):
        balanced(groove, "cowbell-led")
