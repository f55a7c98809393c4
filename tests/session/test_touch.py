"""Touch of many hits: roles stay in order whatever is scaled, and bars move as wholes."""

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from tests.strategies import documents

from ghoststep.files.textgrid import parse_grid
from ghoststep.music.errors import InputError
from ghoststep.music.pattern import hit
from ghoststep.music.touch import Role, role_of
from ghoststep.session.document.document import Document
from ghoststep.session.edits import hit_edits as edits
from ghoststep.session.edits import time_edits
from ghoststep.session.edits import touch_edits as touch

GRID = """
    tempo 96
    hat_closed  x-X-x-X-x-X-x-X- | x-X-x-X-x-X-x-X-
    snare       ----X--o-o--X--o | ----X--o-o--X---
    kick        X------x--X----- | X------x--X---x-
"""


@pytest.fixture
def groove() -> Document:
    return Document("depot", parse_grid(GRID))


def velocities(document: Document, role: Role) -> list[int]:
    return [h.velocity for h in document.groove.pattern.hits if h.role is role]


ways = st.one_of(
    st.floats(5, 400).map(lambda p: lambda d, h: touch.scale(d, h, p)),
    st.floats(-3, 1).map(lambda s: lambda d, h: touch.compress(d, h, s)),
    st.tuples(st.floats(0, 300), st.floats(0, 300)).map(lambda p: lambda d, h: touch.ramp(d, h, *p)),
)


@given(documents, st.lists(ways, min_size=1, max_size=4))
@settings(max_examples=60, deadline=None)
def test_roles_stay_in_order_whatever_is_scaled(document: Document, steps: list) -> None:
    if not document.groove.pattern.hits:
        with pytest.raises(InputError, match="No hit is chosen"):
            steps[0](document, [])
        return
    for step in steps:
        _, document = step(document, document.groove.pattern.hits)
    low = {role: velocities(document, role) for role in Role}
    for below, above in ((Role.GHOST, Role.NORMAL), (Role.NORMAL, Role.ACCENT)):
        assert max(low[below], default=0) < min(low[above], default=128)
    assert all(role_of(h.velocity) is h.role for h in document.groove.pattern.hits)


def test_only_the_chosen_hits_change(groove: Document) -> None:
    kicks = [h for h in groove.groove.pattern.hits if h.voice == "kick"]
    words, new = touch.scale(groove, kicks, 90)
    assert words == "7 hits: 90 % as hard"
    changed = {h.voice for h, old in zip(new.groove.pattern.hits, groove.groove.pattern.hits, strict=True) if h != old}
    assert changed == {"kick"}


def test_a_crescendo_goes_up_and_an_evener_hand_is_evener(groove: Document) -> None:
    hats = [h for h in groove.groove.pattern.hits if h.voice == "hat_closed" and h.role is Role.NORMAL]
    words, new = touch.ramp(groove, hats, 70, 120)
    found = [h.velocity for h in new.groove.pattern.hits if h.voice == "hat_closed" and h.role is Role.NORMAL]
    assert found == sorted(found) and found[0] == 50 and "crescendo" in words
    again = [h for h in new.groove.pattern.hits if h.voice == "hat_closed" and h.role is Role.NORMAL]
    _, even = touch.compress(new, again, 0.5)
    after = [h.velocity for h in even.groove.pattern.hits if h.voice == "hat_closed" and h.role is Role.NORMAL]
    assert max(after) - min(after) == pytest.approx((max(found) - min(found)) / 2, abs=1)


def test_role_levels_move_together(groove: Document) -> None:
    words, new = touch.role_level(groove, Role.GHOST, 28)
    assert set(velocities(new, Role.GHOST)) == {28} and words == "Ghosts at 28"
    assert new.groove.pattern.rules.level_of("snare", Role.GHOST) == 28
    with pytest.raises(InputError, match="have to rise from ghost to normal to accent"):
        touch.role_level(groove, Role.GHOST, 90)
    # A level is a setting: it holds for hits that are placed later, too.
    bare = Document("x", groove.groove.changed(hits=(hit(0, "kick", 70),)))
    _, louder = touch.role_level(bare, Role.ACCENT, 115, ("kick",))
    _, placed = edits.place_hits(louder, [20160], "kick", Role.ACCENT)
    assert [h.velocity for h in placed.groove.pattern.hits] == [70, 115]


def test_a_lane_goes_round_and_comes_back(groove: Document) -> None:
    _, once = touch.rotate(groove, ("kick",), 1)
    assert once.groove.pattern.at(5040, "kick") is not None and once.groove.pattern.at(0, "hat_closed") is not None
    document = groove
    for _ in range(32):
        _, document = touch.rotate(document, ("kick",), 1)
    assert document.groove == groove.groove
    with pytest.raises(InputError, match="no hit of crash"):
        touch.rotate(groove, ("crash",), 1)


def test_bars_are_doubled_and_taken_out(groove: Document) -> None:
    _, longer = time_edits.double_bars(groove, 1, 1)
    pattern = longer.groove.pattern
    assert pattern.bars == 3
    bars = [
        [(h.position_ticks % 80640, h.voice) for h in pattern.hits if h.position_ticks // 80640 == i] for i in range(3)
    ]
    assert bars[0] == bars[1] != bars[2]
    _, back = time_edits.delete_bars(longer, 2, 2)
    assert back.groove.pattern == groove.groove.pattern
    for bad in (lambda: time_edits.double_bars(groove, 3, 3), lambda: time_edits.delete_bars(groove, 0, 0)):
        with pytest.raises(InputError, match="There is no bar"):
            bad()
    _, one = time_edits.delete_bars(groove, 1, 1)
    with pytest.raises(InputError, match="at least one bar"):
        time_edits.delete_bars(one, 1, 1)


def test_hands_swap_and_feet_stay(groove: Document) -> None:
    _, new = touch.swap_hands(groove, groove.groove.pattern.hits)
    assert {h.voice: h.limb_letter for h in new.groove.pattern.hits} == {"hat_closed": "L", "snare": "R", "kick": "K"}
    _, back = touch.swap_hands(new, new.groove.pattern.hits)
    assert [h.limb_letter for h in back.groove.pattern.hits] == [h.limb_letter for h in groove.groove.pattern.hits]
    with pytest.raises(InputError, match="No hit"):
        touch.swap_hands(groove, [])
