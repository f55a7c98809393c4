"""What the pictures of a feel show is what is played."""

import numpy as np
import pytest
from tests.feel.test_measure import LANES, PLAYER, TEXT, played

from ghoststep.feel.views import off_notes, pockets, touches, unheard_ms
from ghoststep.files.textgrid import parse_grid
from ghoststep.music.feel import Feel, Swing


def test_the_pocket_shows_lean_and_spread_beyond_swing() -> None:
    found = {p.voice: p for p in pockets(played(Feel(Swing(16, 0.6), {"snare": 9}, 4.0)))}
    assert set(found) == set(LANES)
    assert found["snare"].mean_ms == pytest.approx(9, abs=1.5) and found["kick"].mean_ms == pytest.approx(0, abs=1.5)
    assert found["hat_closed"].spread_ms == pytest.approx(4, rel=0.25)
    assert found["kick"].bars[0] == 1.0 and found["kick"].bars.max() < 9
    assert len(found["snare"].line_ms) == len(found["snare"].late_ms)
    dead = {p.voice: p for p in pockets(played(Feel(Swing(16, 0.6))))}
    assert np.abs(dead["hat_closed"].late_ms).max() < 1e-6


def test_few_strokes_have_no_line() -> None:
    assert not len(pockets(parse_grid("snare ----X-------X---"))[0].line_ms)


def test_off_notes_fall_where_the_swing_puts_them() -> None:
    found = {o.voice: o.shares for o in off_notes(played(Feel(Swing(16, 0.6))), 16)}
    assert found["snare"] == pytest.approx(0.6, abs=1e-6) and len(found["snare"]) == 8 * 2 + 4
    assert {o.voice for o in off_notes(played(PLAYER), 8)} == {"hat_closed", "kick"}


def test_touch_is_by_spot_and_role() -> None:
    found = {t.voice: t for t in touches(parse_grid(TEXT))}
    snare = found["snare"]
    assert set(snare.quarters) == {1.0, 1.75, 2.25, 3.0, 3.75}
    assert (snare.velocity[snare.ghost] == 32).all() and (snare.velocity[~snare.ghost] == 108).all()


@pytest.mark.parametrize(("bpm", "ms"), [(120, 6.0), (40, 0.025 * 375)])
def test_what_nobody_hears(bpm: int, ms: float) -> None:
    assert unheard_ms(parse_grid(f"tempo {bpm}\nsnare ----X-------X---")) == pytest.approx(ms)
