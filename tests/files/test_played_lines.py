"""A groove that was heard is a text one can read: digits that mean something, a line for a lane's bar, note lengths."""

import re

import pytest

from ghoststep.feel.perform import perform
from ghoststep.files.textgrid import parse_grid
from ghoststep.files.textgrid_out import grid_text
from ghoststep.listen.bars.reading import Hints
from ghoststep.music.errors import InputError
from ghoststep.music.feel import Feel, Swing
from ghoststep.work.hits_heard import heard_performance

ROWS = "tempo 96\nhat_closed x-x-x-x-x-x-x-x- | x-x-x-x-x-x-x-x-\nsnare ----X--o----X--- | ----X--o----X---\n"


def test_strokes_of_a_lane_and_bar_stand_on_one_line() -> None:
    groove = parse_grid(ROWS + "played snare bar 2: 2 99 +3.2, step 8 -1, 4 101\nhit hat_closed bar 1 3 late 2\n")
    told = [(h.velocity, h.offset_ms) for h in groove.pattern.hits if h.voice == "snare"]
    assert told[3:] == [(99, 3.2), (32, -1.0), (101, 0.0)]
    text = grid_text(groove)
    assert "played snare bar 2: 2 99 +3.2, 2.75 -1.0, 4 101" in text.splitlines()
    assert "hit hat_closed bar 1 3 late 2.0" in text.splitlines()  # one by itself stays a line of its own
    assert parse_grid(text) == groove


def test_what_was_heard_has_figures_that_mean_something() -> None:
    groove = parse_grid(ROWS + "kick X-----x-X------- | X-----x-X-------\n")
    feel = Feel(Swing(16, 0.5731234), {"snare": 8.123}, 4.0)
    text = grid_text(heard_performance(perform(groove.changed(feel=feel)), "take", Hints()).groove)
    told = [line for line in text.splitlines() if line.startswith(("played", "hit", "lean", "tempo", "swing"))]
    figures = re.findall(r"\d+\.(\d+)", "\n".join(told))
    assert figures and max(map(len, figures)) <= 4
    hits = text.count("\nhit ")
    assert hits < len(groove.pattern.hits) / 4, text


@pytest.mark.parametrize("word", ["lasts", "length"])
def test_lengths_are_notes(word: str) -> None:
    groove = parse_grid(f"hat_open x---------------\nhit hat_open bar 1 1 {word} 1/4\n")
    assert groove.pattern.hits[0].length_ticks == 20160
    assert "hit hat_open bar 1 1 lasts 1/4" in grid_text(groove)


@pytest.mark.parametrize(
    ("line", "said"),
    [
        ("played snare bar 1: 3 90", "no letter on 3 of bar 1"),
        ("played snare bar 1: 2", "says nothing of a stroke"),
        ("played snare 1: 2 90", "write it like"),
        ("hit snare bar 1 2 length 1/0", "is no length"),
        ("hit snare bar 1 2 length 1/11", "whole ticks"),
        ("played snare bar 1: 2 0", "outside 1 to 127"),
    ],
)
def test_what_it_cannot_mean_is_told_with_its_line(line: str, said: str) -> None:
    with pytest.raises(InputError, match=rf"line 4: .*{said}"):
        parse_grid(ROWS + line)
