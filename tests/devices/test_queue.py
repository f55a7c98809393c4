"""The player's queue of programs, its clock, and what a change does while something plays."""

from dataclasses import replace

import numpy as np
import pytest
from tests.devices.test_devices import RATE, HandOutput, ramp

from ghoststep.devices.output import BLOCK
from ghoststep.devices.player import Player
from ghoststep.sound.program import Plays


@pytest.fixture
def output() -> HandOutput:
    return HandOutput()


def test_programs_follow_each_other_behind_a_gap(output: HandOutput) -> None:
    player = Player(output)
    player.play(ramp(300), loop=False)
    player.append(ramp(200, start=1000), gap_s=100 / RATE)
    player.append(replace(ramp(100, start=2000), what=Plays.CLICK), loop=True)
    heard = np.concatenate([output.turn(50) for _ in range(18)])[:, 0]
    assert heard[:300].tolist() == list(range(300))
    assert not heard[300:400].any()
    assert heard[400:600].tolist() == list(range(1000, 1200))
    assert heard[600:900].tolist() == [2000 + i % 100 for i in range(300)]
    assert player.clock == 900 and player.what is Plays.CLICK and player.playing


def test_what_waits_ends_a_loop_at_the_end_of_its_round(output: HandOutput) -> None:
    player = Player(output)
    player.play(ramp(300), loop=True)
    output.turn(400)
    player.append(ramp(100, start=1000))
    heard = output.turn(400)[:, 0]
    assert heard[:200].tolist() == list(range(100, 300)) and heard[200:300].tolist() == list(range(1000, 1100))
    assert not heard[300:].any() and not player.playing


def test_between_programs_there_is_no_playhead(output: HandOutput) -> None:
    player = Player(output)
    player.play(ramp(100), loop=False)
    player.append(ramp(1000), gap_s=200 / RATE)
    output.turn(150)
    assert player.playing and player.position_ticks() is None
    output.turn(200)
    assert player.position_ticks() == pytest.approx(80640 * 50 / 1000)


def test_a_count_in_that_is_switched_off_is_over(output: HandOutput) -> None:
    player = Player(output)
    player.play(ramp(2000, count_in=4000), loop=True)
    output.turn()
    assert player.position_ticks() is None
    player.replace(ramp(2000), loop=True)
    block = output.turn()[:, 0]
    assert block[200:203].tolist() == [200, 201, 202] and player.position_ticks() is not None


def test_a_new_range_goes_on_where_the_groove_is(output: HandOutput) -> None:
    player = Player(output)
    player.play(ramp(4000, region=(0, 80640)), loop=True)
    for _ in range(3):
        output.turn(1000)
    assert player.position_ticks() == pytest.approx(60480)
    player.replace(ramp(2000, region=(40320, 80640)), loop=True)
    output.turn(1)
    assert player.position_ticks() == pytest.approx(60480, abs=50)
    # Where the place lies outside the new range, it begins at the range's start.
    player.replace(ramp(1000, region=(0, 20160)), loop=True)
    output.turn(1)
    assert 0 <= player.position_ticks() < 20160


def test_a_moment_has_no_playhead_and_a_stop_empties_nothing_else(output: HandOutput) -> None:
    player = Player(output)
    moment = replace(ramp(3 * BLOCK), what=Plays.MOMENT)
    player.play(moment, loop=False)
    output.turn()
    assert player.position_ticks() is None and player.what is Plays.MOMENT and player.program is moment
    player.stop()
    assert player.what is None and player.program is None
