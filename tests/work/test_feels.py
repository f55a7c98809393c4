"""A blind choice among a player's own bars, a take of ours and straight dice: alike in all but how they stray."""

import numpy as np

from ghoststep.feel.measure import measured
from ghoststep.feel.perform import perform
from ghoststep.files.textgrid import parse_grid
from ghoststep.music.feel import Feel, Swing
from ghoststep.music.player import Wander
from ghoststep.work.feels import three_to_judge

BARS = " | ".join(["x-x-x-x-x-x-x-x-"] * 24)
BACK = " | ".join(["----X--o----X---"] * 24)


def test_the_three_differ_in_nothing_but_how_they_stray() -> None:
    groove = parse_grid(f"tempo 96\nhat_closed {BARS}\nsnare {BACK}")
    player = groove.changed(feel=Feel(Swing(16, 0.5), {"snare": 8}, 6.0, wander=Wander(exponent=1.1, velocity=5)))
    three = dict(three_to_judge(player, 3))
    assert list(three) == ["the player", "a take of ours", "straight dice"] and three["the player"] is player
    hats = np.array([h.voice == "hat_closed" for h in groove.pattern.hits])
    still = perform(groove).onset_s
    neighbours = {}
    for name, version in three.items():
        found = measured(version).feel
        assert abs(found.lean_of("snare") - 8) < 2 and abs(found.loose_ms - 6) < 1.5, name
        assert abs(found.wander.velocity - 5) < 1.5, name
        ms = 1000 * (perform(version).onset_s - still)[hats]
        neighbours[name] = np.corrcoef(ms[:-1], ms[1:])[0, 1]
    assert neighbours["a take of ours"] > 0.3 > 0.2 > abs(neighbours["straight dice"])
    assert three_to_judge(player, 3)[2][1] == three["straight dice"] != three_to_judge(player, 4)[2][1]
