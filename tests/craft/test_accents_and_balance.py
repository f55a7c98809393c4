import math

import pytest

from ghoststep.craft.accents import accented
from ghoststep.feel.perform import perform
from ghoststep.files.textgrid import parse_grid
from ghoststep.music.errors import InputError
from ghoststep.music.groove import Groove
from ghoststep.music.kit import VOICES
from ghoststep.sound.balance import BALANCES, balanced, current
from ghoststep.sound.loudness import group_energies


def spots(text: str, shape: str) -> list[float]:
    groove = parse_grid(text)
    unit = groove.pattern.meter.unit_ticks
    return sorted(t / unit for t in accented(groove.pattern.hits, shape, groove.pattern.frame))


def test_shapes_follow_the_meter() -> None:
    four = "hat_closed xxxxxxxxxxxxxxxx"
    assert spots(four, "beat") == [0, 1, 2, 3] and spots(four, "off-beat") == [0.5, 1.5, 2.5, 3.5]
    assert spots(four, "backbeat") == [1, 3] and spots(four, "every 3")[:3] == [0, 0.75, 1.5]
    assert spots(four, "every 3 from 2")[:2] == [0.25, 1.0]
    seven = "meter 7/8 2+2+3\ngrid 16\nhat_closed xxxxxxxxxxxxxx"
    assert spots(seven, "groups") == [0, 2, 4] and spots(seven, "backbeat") == [2]
    eleven = "meter 11/4 4+4+3\ngrid 4\nhat_closed xxxxxxxxxxx"
    assert spots(eleven, "groups") == [0, 4, 8] and spots(eleven, "backbeat") == [1, 3, 5, 7, 9]
    for wrong in ("swirl", "every 0", "every 3 from 0"):
        with pytest.raises(InputError, match="no accent shape"):
            spots(four, wrong)


def heard_db(groove: Groove) -> dict[str, float]:
    return {group: 10 * math.log10(e) for group, e in group_energies(perform(groove)).items()}


def played(groove: Groove) -> list[tuple[int, int]]:
    found = perform(groove)
    return list(zip(found.velocity.tolist(), found.voice.tolist(), strict=True))


def whole_db(groove: Groove) -> float:
    return 10 * math.log10(sum(group_energies(perform(groove)).values()))


def test_a_balance_puts_groups_where_they_are_heard(grid_text: str) -> None:
    groove = parse_grid(grid_text)
    for name, wanted in BALANCES.items():
        if not wanted:
            assert balanced(groove, name) == {}
            continue
        moved = groove.changed(feel=type(groove.feel)(balance_db=balanced(groove, name)))
        assert current(moved) == name and moved.pattern is groove.pattern
        heard = heard_db(moved)
        for group in ("kick", "snare", "hat"):
            apart = heard[group] - heard["kick"]
            # A hat cannot be played as loud as a kick: it goes as far as its velocities reach.
            near = 6.0 if name == "hat-led" else 1.0
            assert apart == pytest.approx(wanted[group] - wanted["kick"], abs=near), (name, group)
        # The whole stays as loud as it was, so that comparing is fair, as far as the hardest strokes reach: none is
        # driven into the stop while softer ones are raised.
        assert whole_db(moved) <= whole_db(groove) + 0.5
        if name in ("level", "kick-led"):
            assert whole_db(moved) == pytest.approx(whole_db(groove), abs=3.0), name
        for voice in ("kick", "snare"):
            was, now = (sorted(v for v, i in played(g) if VOICES[i].name == voice) for g in (groove, moved))
            ratio = [math.log(b / a) for a, b in zip(was, now, strict=True)]
            assert max(ratio) - min(ratio) < 0.1, (name, voice)
    with pytest.raises(InputError, match="kick-led"):
        balanced(groove, "cowbell-led")
