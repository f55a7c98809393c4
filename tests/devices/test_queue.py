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


def test_a_loop_whose_passes_vary_goes_on_with_others_where_it_comes_round(output: HandOutput) -> None:
    player = Player(output)
    first = replace(ramp(400), vary=True)
    following = replace(ramp(400, start=1000), vary=True, first_pass=1)
    player.play(first, loop=True)
    assert player.waits_for_passes is first
    output.turn(100)
    player.follow(following, first)
    assert player.waits_for_passes is None
    heard = output.turn(500)[:, 0]
    assert heard[:300].tolist() == list(range(100, 400))
    # 128 samples fade from what would have come, the old start, to what comes.
    assert heard[300] == 0 and 0 < heard[360] < 1060
    assert heard[428:500].tolist() == list(range(1128, 1200))
    assert player.program is following and player.waits_for_passes is following
    assert output.turn(300)[200:, 0].tolist() == list(range(1000, 1100))  # and round again while nothing follows


def test_a_fade_goes_on_over_short_blocks(output: HandOutput) -> None:
    whole, parts = HandOutput(), HandOutput()
    heard = []
    for device, sizes in ((whole, [500]), (parts, [50] * 10)):
        player = Player(device)
        player.play(replace(ramp(400), vary=True), loop=True)
        player.follow(replace(ramp(400, start=1000), vary=True), player.program)
        heard.append(np.concatenate([device.turn(size) for size in sizes]))
    assert np.allclose(heard[0], heard[1])


def test_what_follows_is_dropped_where_something_changed_or_another_plays(output: HandOutput) -> None:
    player = Player(output)
    first, other = replace(ramp(400), vary=True), ramp(400, start=1000)
    player.play(first, loop=True)
    player.follow(other, first)
    player.replace(replace(ramp(400, start=5000), vary=True), loop=True)
    heard = output.turn(800)[:, 0]
    assert heard[500:].min() >= 5000
    player.follow(other, first)  # made for what plays no more
    assert output.turn(800)[:, 0].min() >= 5000
    player.play(ramp(400), loop=True)
    assert player.waits_for_passes is None  # its passes are alike
