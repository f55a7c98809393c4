"""The commit: spots are unique, rules are kept and keys stay, whatever way a change comes in."""

from dataclasses import fields, replace

import numpy as np
import pytest
from hypothesis import given, settings
from tests.strategies import documents

from ghoststep.files.textgrid import parse_grid
from ghoststep.files.textgrid_out import grid_text
from ghoststep.music.kit import LANE_OF_VOICE
from ghoststep.music.meter import Meter
from ghoststep.music.pattern import FIRST_OWN_KEY, Hit, Origin
from ghoststep.music.rules import Rules
from ghoststep.music.touch import Role
from ghoststep.session.document.document import Document, Snapshot
from ghoststep.session.document.merge import Version, carried
from ghoststep.session.edits import hit_edits as edits
from ghoststep.session.edits import time_edits
from ghoststep.session.edits.commit import opened
from ghoststep.session.edits.touch_edits import line
from ghoststep.session.language.doing import commit

STEP = 5040


@pytest.fixture
def document(grid_text: str) -> Document:
    return opened(Document("depot", parse_grid(grid_text)))


def lane(document: Document, name: str) -> str:
    rows = [row for row in grid_text(document.groove).splitlines() if row.startswith(f"{name} ")]
    return rows[0].split(None, 1)[1] if rows else ""


def spots(document: Document) -> list[tuple[int, str]]:
    return [(h.position_ticks, h.voice) for h in document.groove.pattern.hits if not h.grace]


def test_a_hit_that_comes_to_a_taken_spot_takes_its_place(document: Document) -> None:
    snare = document.groove.pattern.at(4 * STEP, "snare")
    ghost = document.groove.pattern.at(7 * STEP, "snare")
    words, moved = commit(document, edits.move_hits(document, [snare], 3 * STEP))
    assert words == "Snare 2 moved (in place of 1 hit)"
    assert moved.groove.pattern.at(7 * STEP, "snare").key == snare.key
    assert ghost.key not in {h.key for h in moved.groove.pattern.hits}
    words, other = commit(document, edits.set_voice(document, [document.groove.pattern.at(0, "kick")], "hat_closed"))
    assert "in place of 1 hit" in words and len(spots(other)) == len(set(spots(other))) == len(spots(document)) - 1


def test_of_two_that_come_together_the_harder_stays(document: Document) -> None:
    hits = (Hit(STEP, "kick", 50, Role.NORMAL), Hit(STEP, "kick", 90, Role.NORMAL))
    pattern = document.groove.pattern
    _, after = commit(document, ("Two", document.with_groove(pattern=pattern.with_hits(set(), hits))))
    assert [h.velocity for h in after.groove.pattern.hits if (h.position_ticks, h.voice) == (STEP, "kick")] == [90]


def test_keys_stay_and_new_hits_get_new_ones(document: Document) -> None:
    kick = document.groove.pattern.at(0, "kick")
    _, softer = commit(document, edits.set_velocity(document, [kick], 50))
    _, moved = commit(softer, edits.move_hits(softer, [softer.groove.pattern.at(0, "kick")], STEP))
    assert moved.groove.pattern.at(STEP, "kick").key == kick.key
    _, more = commit(moved, edits.place_hits(moved, [0], "kick"))
    assert more.groove.pattern.at(0, "kick").key == moved.next_key and more.next_key == moved.next_key + 1
    _, twice = commit(more, time_edits.double_bars(more, 1, 1))
    keys = [h.key for h in twice.groove.pattern.hits]
    assert len(set(keys)) == len(keys) and twice.next_key > max(keys)


def test_a_key_is_never_given_twice(document: Document) -> None:
    _, less = commit(document, edits.remove_hits(document, [document.groove.pattern.hits[-1]]))
    gone = document.groove.pattern.hits[-1].key
    _, more = commit(less, edits.place_hits(less, [STEP], "tom_low"))
    assert more.groove.pattern.at(STEP, "tom_low").key not in {gone, *(h.key for h in less.groove.pattern.hits)}


@given(documents)
@settings(max_examples=60, deadline=None)
def test_every_hit_of_an_opened_document_has_a_key_of_its_own(document: Document) -> None:
    found = opened(replace(document, snapshots=(Snapshot("one", document.groove),)))
    for groove in (found.groove, found.snapshots[0].groove):
        keys = [h.key for h in groove.pattern.hits]
        assert all(keys) and len(set(keys)) == len(keys) and max(keys, default=0) < found.next_key
    assert opened(found) is found


def test_a_lane_that_repeats_does_so_whatever_way_it_is_changed(document: Document) -> None:
    _, cycled = commit(document, time_edits.set_cycle(document, LANE_OF_VOICE["hat_closed"], 3))
    rounds = cycled.groove.pattern.at(3 * STEP, "hat_closed")
    assert rounds is not None
    # A drag of one hit in the third round, a drawn line, and hits from outside.
    dragged = cycled.groove.pattern.at(6 * STEP, "hat_closed")
    _, moved = commit(cycled, edits.move_each(cycled, [dragged], {dragged.key: 7 * STEP}))
    assert lane(moved, "hat_closed").startswith("-xx-xx-xx-xx")
    one = cycled.groove.pattern.at(0, "hat_closed")
    _, drawn = commit(cycled, line(cycled, [one], [(0.0, 40.0), (1.0, 40.0)]))
    assert {
        h.velocity for h in drawn.groove.pattern.hits if h.voice == "hat_closed" and h.position_ticks % (3 * STEP) == 0
    } == {40}
    pattern = cycled.groove.pattern
    new = cycled.with_groove(pattern=pattern.with_hits(set(), [Hit(4 * STEP, "hat_closed", 100, Role.ACCENT)]))
    _, pasted = commit(cycled, ("Pasted", new))
    assert {pasted.groove.pattern.at((1 + 3 * i) * STEP, "hat_closed").velocity for i in range(10)} == {100}


def test_a_linear_part_stays_linear_when_hits_come_from_outside(document: Document) -> None:
    pattern = replace(document.groove.pattern, rules=Rules(linear=True))
    linear = document.with_groove(
        pattern=pattern.with_hits(range(len(pattern.hits)), [Hit(0, "kick", 90, Role.NORMAL)])
    )
    linear = opened(linear)
    new = linear.groove.pattern.with_hits(
        set(), [Hit(0, "snare", 90, Role.NORMAL), Hit(STEP, "snare", 80, Role.NORMAL)]
    )
    words, after = commit(linear, ("Pasted", linear.with_groove(pattern=new)))
    assert "takes the place of kick" in words and spots(after) == [(0, "snare"), (STEP, "snare")]


# -- what was heard anew and what was edited ----------------------------------------------------------------------

HEARD = Hit(0, "snare", 80, Role.NORMAL, origin=Origin(0.5, 0.9, "snare"), key=1)
OTHER = Hit(20160, "kick", 90, Role.NORMAL, origin=Origin(1.0, 0.9, "kick"), key=2)
CHANGED = {
    "position_ticks": 5040, "voice": "cross_stick", "velocity": 33, "role": Role.GHOST, "stroke": "rim", "limb": "R",
    "offset_ms": 7.5, "grace": True, "ornament": "flam", "length_ticks": 2520, "within": (0, 20160),
    "fixed": True,
}  # fmt: skip


def grooves(*hits: Hit):
    return parse_grid("kick ----------------").changed(hits=hits)


@pytest.mark.parametrize("field", [f.name for f in fields(Hit) if f.name not in ("origin", "key")])
def test_every_field_that_was_edited_lives_on(field: str) -> None:
    """A field that is added to `Hit` has to be thought of here."""
    old = Version(grooves(HEARD, OTHER), 0.5)
    edited = grooves(replace(HEARD, **{field: CHANGED[field]}), OTHER)
    again = replace(HEARD, velocity=81, origin=Origin(0.5, 0.8, "snare"))  # heard a little otherwise
    merged = carried(old, edited, Version(grooves(again, OTHER), 0.5)).pattern.hits
    found = next(h for h in merged if h.key == 1)
    assert getattr(found, field) == CHANGED[field] and found.origin == again.origin
    if field != "velocity":
        assert found.velocity == 81
    assert next(h for h in merged if h.key == 2) == OTHER


def test_what_the_user_put_in_or_took_away_stays_so() -> None:
    mine = Hit(10080, "tom_low", 70, Role.NORMAL, key=FIRST_OWN_KEY)
    old = Version(grooves(HEARD, OTHER), 0.5)
    new = Version(grooves(HEARD, OTHER, Hit(40320, "ride", 60, Role.NORMAL, key=3)), 0.5)
    merged = carried(old, grooves(HEARD, mine), new)
    assert {h.key for h in merged.pattern.hits} == {1, 3, FIRST_OWN_KEY}


def test_meters_and_rules_that_were_set_stay_while_bars_lie_alike() -> None:
    old = Version(grooves(HEARD, OTHER), 0.5)
    edited = old.groove.changed(rules=Rules(linear=True), bars=3, meter_changes=((2, Meter(7, 8)),))
    merged = carried(old, edited, Version(grooves(replace(HEARD, velocity=70), OTHER), 0.5))
    assert merged.pattern.rules.linear and merged.pattern.bars == 3 and merged.pattern.meter_changes
    assert np.isclose(merged.pattern.hits[0].velocity, 70)


def test_a_deviation_that_only_listening_moved_is_no_edit() -> None:
    """A hundredth of a ms is rounding on the way through a file; a tenth is what somebody dragged."""
    old, new = Version(grooves(HEARD, OTHER), 0.5), Version(grooves(replace(HEARD, offset_ms=3.0), OTHER), 0.5)
    for moved_ms, then_ms in ((0.04, 3.0), (0.1, 0.1)):
        merged = carried(old, grooves(replace(HEARD, offset_ms=moved_ms, velocity=81), OTHER), new)
        assert merged.pattern.hits[0].offset_ms == then_ms
