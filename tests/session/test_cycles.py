"""A figure of a few steps, written once and laid over the bars: it runs on, or begins anew each bar or phrase."""

import pytest

from ghoststep.files.textgrid import parse_grid
from ghoststep.files.textgrid_out import grid_text
from ghoststep.music.errors import InputError
from ghoststep.music.groove import Groove
from ghoststep.music.kit import LANE_OF_VOICE
from ghoststep.music.rules import Rules
from ghoststep.session.document.document import Document
from ghoststep.session.edits.commit import opened
from ghoststep.session.language.doing import do
from ghoststep.session.language.edit_context import EditContext


def after(text: str, *phrases: str) -> Groove:
    context = EditContext(opened(Document("yard", parse_grid(text))))
    for phrase in phrases:
        _, context = do(context, phrase)
    return context.document.groove


def steps(groove: Groove, voice: str = "hat_pedal") -> list[int]:
    return [h.position_ticks // 5040 for h in groove.pattern.hits if h.voice == voice]


FOUR = "hat_pedal x--------------- | ----------------\nkick X---------------"
ADDED = "meter 11/4 4+4+3\ngrid 8\nhat_pedal x--------------------- | ----------------------"


def test_a_figure_of_three_runs_on_or_begins_anew() -> None:
    assert steps(after(FOUR, "cycle 3 hat_pedal")) == list(range(0, 32, 3))
    each = [0, 3, 6, 9, 12, 15]
    assert steps(after(FOUR, "cycle 3 hat_pedal every 1")) == [*each, *(16 + s for s in each)]
    assert steps(after(FOUR, "cycle 3 hat_pedal every 2")) == list(range(0, 32, 3))
    assert steps(after(FOUR, "cycle 5 hat_pedal every 1")) == [0, 5, 10, 15, 16, 21, 26, 31]


def test_over_an_additive_meter() -> None:
    found = after(ADDED, "cycle 3 hat_pedal every 1")
    assert steps(found) == [2 * s for s in (*range(0, 22, 3), *range(22, 44, 3))]


def test_a_change_of_any_round_is_one_of_all_and_a_cut_round_loses_nothing() -> None:
    found = after(FOUR, "cycle 5 hat_pedal every 1", "place hat_pedal step 3 bars 1")
    assert steps(found)[:6] == [0, 2, 5, 7, 10, 12]
    # The last round of a bar is one step long: taking its stroke away takes the first of every round.
    gone = after(FOUR, "cycle 5 hat_pedal every 1", "place hat_pedal step 3 bars 1", "remove on hat_pedal at step 16")
    assert steps(gone) == [2, 7, 12, 18, 23, 28]


def test_it_is_written_and_read_again() -> None:
    found = after(FOUR, "cycle 3 hat_pedal every 1")
    assert "cycle hat_pedal 3 every 1" in grid_text(found)
    assert parse_grid(grid_text(found)).pattern.rules == found.pattern.rules
    assert after(FOUR, "cycle 3 hat_pedal every 1", "cycle 3 hat_pedal").pattern.rules.restarts == ()
    assert after(FOUR, "cycle 3 hat_pedal every 1", "cycle 0 hat_pedal").pattern.rules == Rules()


def test_only_what_repeats_begins_anew() -> None:
    lane = LANE_OF_VOICE["kick"]
    for rules in ({"restarts": ((lane, 1),)}, {"cycles": ((lane, 5040),), "restarts": ((lane, 65),)}):
        with pytest.raises(InputError, match="begins anew"):
            Rules(**rules)
    with pytest.raises(InputError):
        parse_grid("cycle hat_pedal 3 every 0\nkick X---------------")


FIVE = "hat_pedal x-x--x-x--x-x--x | -x--x-x--x-x--x-\nkick X---------------\ncycle hat_pedal 5"


def test_what_is_taken_out_of_a_bar_goes_from_every_round_and_it_is_said() -> None:
    context = EditContext(opened(Document("yard", parse_grid(FIVE))))
    words, gone = do(context, "remove hat_pedal bars 1")
    assert steps(gone.document.groove) == []
    assert words == "7 hits removed (and so in every round of the hat pedal)"
    words, moved = do(context, "move 1 step on hat_pedal at 1 bars 1")
    assert steps(moved.document.groove)[:5] == [1, 2, 6, 7, 11] and "every round" in words


def test_bars_that_go_leave_the_round_as_it_is() -> None:
    assert steps(after(FIVE, "delete-bar 1")) == [0, 2, 5, 7, 10, 12, 15]
    assert steps(after(FIVE, "double-bar 2"))[-4:] == [40, 42, 45, 47]


OWN = ("own-rounds hat_pedal bars 2", "remove hat_pedal at step 5 bars 2")


def test_a_round_of_its_own_is_edited_alone_and_missed_by_edits_of_the_others() -> None:
    before = steps(after(FIVE))
    changed = after(FIVE, *OWN)
    assert steps(changed) == [s for s in before if s != 20]
    # An edit of another round reaches all but those in bar 2 (rounds 5 to 7 begin there).
    moved = after(FIVE, *OWN, "move 1 step on hat_pedal at 1 bars 1")
    assert steps(moved) == [1, 2, 6, 7, 11, 12, 16, 17, 22, 25, 27, 30]
    assert moved.pattern.rules.own_of(LANE_OF_VOICE["hat_pedal"]) == {4, 5, 6}
    alike = after(FIVE, *OWN, "own-rounds hat_pedal", "place kick 2 bars 1")
    assert steps(alike) == before and alike.pattern.rules.own_rounds == ()


def test_rounds_of_their_own_are_kept_by_text_and_where_bars_go_the_lane_runs_through() -> None:
    found = after(FIVE, *OWN)
    assert "cycle hat_pedal 5 own 5 6 7" in grid_text(found)
    assert parse_grid(grid_text(found)).pattern == found.pattern
    context = EditContext(opened(Document("yard", found)))
    words, gone = do(context, "delete-bar 1")
    assert gone.document.groove.pattern.rules == Rules() and "runs through now" in words
    assert steps(gone.document.groove) == [s - 16 for s in steps(found) if s >= 16]
    with pytest.raises(InputError, match="does not repeat"):
        after(FOUR, "own-rounds hat_pedal bars 2")
    with pytest.raises(InputError, match="No round"):
        after("hat_pedal x--------------- | ----------------", "cycle 32 hat_pedal", "own-rounds hat_pedal bars 2")
