"""Bars that are put in, doubled, taken out and moved carry hits, grids, meters and tempo with them."""

from fractions import Fraction

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from tests.strategies import whole_grooves

from ghoststep.feel.perform import perform
from ghoststep.files.textgrid import parse_grid
from ghoststep.music.errors import InputError
from ghoststep.music.groove import Groove
from ghoststep.music.meter import Meter
from ghoststep.music.time import TICKS_PER_QUARTER
from ghoststep.session.document.document import Document
from ghoststep.session.edits import time_edits
from ghoststep.session.edits.commit import opened
from ghoststep.session.language.doing import commit

Q = TICKS_PER_QUARTER
SONG = """
tempo 96
meter 4/4
grid 16
bar 2 meter 7/8 2+2+3
bar 3 meter 4/4
bar 3 grid 12
bar 4 grid 16
bar 2 tempo 96 -> 120 over 2
hat_closed x-x-x-x-x-x-x-x- | x-x-x-x-x-x-x- | x--x--x--x-- | x-x-x-x-x-x-x-x-
kick       X---------X----- | X-----X------- | X--------X-- | X-------X-------
"""


@pytest.fixture
def song() -> Document:
    return opened(Document("song", parse_grid(SONG)))


def bar(groove: Groove, number: int) -> tuple:
    """All that a bar holds: its meter, its hits, the grid of its first beat, and the seconds it takes."""
    pattern = groove.pattern
    start, end = pattern.frame.start_of(number), pattern.frame.start_of(number + 1)
    hits = tuple((pattern.hits[i].position_ticks - start, pattern.hits[i].voice) for i in pattern.between(start, end))
    lasts = float(groove.tempo.seconds(end) - groove.tempo.seconds(start))
    return pattern.frame.meter_of(number), hits, pattern.grid_at("kick", start), round(lasts, 6)


def test_the_song_is_as_it_says(song: Document) -> None:
    frame = song.groove.pattern.frame
    assert [str(frame.meter_of(b)) for b in (1, 2, 3, 4)] == ["4/4", "7/8", "4/4", "4/4"]
    assert [song.groove.pattern.grid_at("kick", frame.start_of(b)) for b in (1, 2, 3, 4)] == [16, 16, 12, 16]
    assert song.groove.tempo.bpm_at(frame.start_of(4)) == 120


def test_doubled_bars_bring_everything(song: Document) -> None:
    _, new = commit(song, time_edits.double_bars(song, 2, 3))
    was = [bar(song.groove, b) for b in (1, 2, 3, 4)]
    assert [bar(new.groove, b) for b in range(1, 7)] == [was[0], was[1], was[2], was[1], was[2], was[3]]


def test_taken_out_bars_take_everything(song: Document) -> None:
    was = [bar(song.groove, b) for b in (1, 2, 3, 4)]
    _, new = commit(song, time_edits.delete_bars(song, 2, 2))
    assert [bar(new.groove, b) for b in (1, 2, 3)] == [was[0], was[2], was[3]]
    _, new = commit(song, time_edits.delete_bars(song, 1, 1))
    assert [bar(new.groove, b) for b in (1, 2, 3)] == was[1:]


@pytest.mark.parametrize(
    ("first", "last", "before", "order"), [(3, 4, 1, "3412"), (1, 1, 5, "2341"), (2, 2, 4, "1324")]
)
def test_moved_bars_bring_everything_and_keep_their_keys(
    song: Document, first: int, last: int, before: int, order: str
) -> None:
    was = {str(b): bar(song.groove, b) for b in (1, 2, 3, 4)}
    _, new = commit(song, time_edits.move_bars(song, first, last, before))
    assert [bar(new.groove, i + 1) for i in range(4)] == [was[b] for b in order]
    assert {h.key for h in new.groove.pattern.hits} == {h.key for h in song.groove.pattern.hits}


@given(whole_grooves, st.data())
@settings(max_examples=50, deadline=None)
def test_doubling_and_taking_out_again_changes_nothing(groove: Groove, data: st.DataObject) -> None:
    document = opened(Document("x", groove.changed(rules=type(groove.pattern.rules)())))
    first = data.draw(st.integers(1, groove.pattern.bars))
    last = data.draw(st.integers(first, groove.pattern.bars))
    _, longer = time_edits.double_bars(document, first, last)
    _, back = time_edits.delete_bars(longer, last + 1, 2 * last - first + 1)
    assert back.groove.pattern.hits == document.groove.pattern.hits
    assert back.groove.pattern.frame.up_to(groove.pattern.bars) == groove.pattern.frame.up_to(groove.pattern.bars)
    assert np.allclose(perform(back.groove).onset_s, perform(document.groove).onset_s, atol=1e-9)
    for tick in range(0, groove.pattern.length_ticks, Q):
        assert back.groove.pattern.grid_at("snare", tick) == groove.pattern.grid_at("snare", tick)


def test_a_tempo_for_some_bars_leaves_the_others(song: Document) -> None:
    plain = opened(Document("x", parse_grid(SONG.replace("bar 2 tempo 96 -> 120 over 2\n", ""))))
    _, new = time_edits.set_tempo_of_bars(plain, 2, 3, 80.0)
    tempo, frame = new.groove.tempo, new.groove.pattern.frame
    assert [tempo.bpm_at(frame.start_of(b)) for b in (1, 2, 3, 4)] == [96, 80, 80, 96]
    _, ramp = time_edits.set_tempo_of_bars(plain, 2, 3, 96.0, 120.0)
    assert ramp.groove.tempo.seconds(frame.start_of(4)) == pytest.approx(song.groove.tempo.seconds(frame.start_of(4)))
    _, faster = time_edits.change_tempo(song, by_bpm=5)
    assert faster.groove.tempo.bpm_at(0) == 101 and faster.groove.tempo.bpm_at(frame.start_of(4)) == 125
    _, slower = time_edits.change_tempo(song, times=0.75)
    assert slower.groove.tempo.bpm_at(0) == 72 and slower.groove.tempo.bpm_at(frame.start_of(4)) == 90


def test_another_meter_for_a_bar_cuts_or_lengthens_it(song: Document) -> None:
    _, new = time_edits.set_meter_of_bars(song, Meter(5, 8, (2, 3)), [4])
    assert bar(new.groove, 4)[0] == Meter(5, 8, (2, 3)) and bar(new.groove, 3) == bar(song.groove, 3)
    assert all(h.position_ticks < new.groove.pattern.length_ticks for h in new.groove.pattern.hits)
    _, long = time_edits.set_meter_of_bars(song, Meter(5, 4), [1])
    assert bar(long.groove, 2) == bar(song.groove, 2) and bar(long.groove, 1)[1] == bar(song.groove, 1)[1]


def test_less_than_a_bar_moves_what_follows_and_no_bar_line(song: Document) -> None:
    start = song.groove.pattern.frame.start_of(2)
    _, new = time_edits.insert_time(song, start, Q // 2)
    assert new.groove.pattern.frame.up_to(4) == song.groove.pattern.frame
    assert new.groove.pattern.at(start + Q // 2, "kick") is not None and new.groove.pattern.at(start, "kick") is None
    _, back = time_edits.delete_time(new, start, Q // 2)
    assert back.groove.pattern.hits == song.groove.pattern.hits
    with pytest.raises(InputError):
        time_edits.move_bars(song, 1, 2, 9)


def test_an_eighth_at_the_end_of_a_short_bar_belongs_to_the_next(song: Document) -> None:
    frame = song.groove.pattern.frame
    assert frame.start_of(3) - frame.start_of(2) == Fraction(7, 8) * 4 * Q
    assert frame.spot_at(frame.start_of(3)).bar == 3
