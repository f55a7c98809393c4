from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from tests.strategies import documents

from ghoststep.files.textgrid import parse_grid
from ghoststep.music.errors import InputError
from ghoststep.music.feel import Feel, Swing
from ghoststep.music.touch import Role
from ghoststep.session.document.document import Document
from ghoststep.session.document.history import MAX_STEPS, History
from ghoststep.session.edits import hit_edits as edits
from ghoststep.session.edits import time_edits
from ghoststep.session.edits.commit import opened
from ghoststep.session.language.doing import commit

TEXT = """
    tempo 96
    hat_closed  x-x-x-x-x-x-x-x- | x-x-x-x-x-x-x-x-
    snare       ----X--o-o--X--o | ----X-----------
    kick        X------x--X----- | X---------------
"""


@pytest.fixture
def document() -> Document:
    return Document("x", parse_grid(TEXT))


def pick(document: Document, voice: str, nth: int = 0):
    return [[h for h in document.groove.pattern.hits if h.voice == voice][nth]]


def test_placing_and_removing_say_what_they_did(document: Document) -> None:
    words, more = edits.place_hits(document, [3 * 5040], "kick", Role.GHOST)
    assert words == "Kick 1a placed" and len(more.groove.pattern.hits) == len(document.groove.pattern.hits) + 1
    with pytest.raises(InputError, match="already has a hit"):
        edits.place_hits(more, [3 * 5040], "kick")
    words, less = edits.remove_hits(more, [more.groove.pattern.at(3 * 5040, "kick")])
    assert words == "Kick 1a removed" and less == document


def test_velocity_in_words_and_role_follows(document: Document) -> None:
    words, new = edits.set_velocity(document, pick(document, "kick", 1), 30)
    assert words == "Kick 2a: 72 → 30"
    assert pick(new, "kick", 1)[0].role is Role.GHOST
    words, new = edits.change_velocity(document, pick(document, "snare", 0), 40)
    assert words == "Snare 2: 108 → 127"
    words, _ = edits.change_velocity(document, document.groove.pattern.hits, -4)
    assert words.endswith("hits: velocity -4")


def test_roles_voices_limbs_and_deviation(document: Document) -> None:
    hit = pick(document, "snare")
    assert edits.set_role(document, hit, Role.GHOST)[1].groove.pattern.at(20160, "snare").velocity == 32
    assert edits.set_voice(document, hit, "cross_stick")[1].groove.pattern.at(20160, "cross_stick")
    assert edits.set_limb(document, hit, "R")[1].groove.pattern.at(20160, "snare").limb_letter == "R"
    words, new = edits.set_offset(document, hit, -7.5)
    assert words == "Snare 2: 7.5 ms earlier" and new.groove.pattern.at(20160, "snare").offset_ms == -7.5
    assert edits.nudge(new, pick(new, "snare"), 7.5)[1] == document


def test_moving_stops_at_the_edges(document: Document) -> None:
    words, new = edits.move_hits(document, pick(document, "kick"), 5040)
    assert words == "Kick 1 moved" and new.groove.pattern.at(5040, "kick")
    with pytest.raises(InputError, match="out of the pattern"):
        edits.move_hits(document, pick(document, "kick"), -5040)


def test_feel_and_length(document: Document) -> None:
    assert edits.set_swing(document, Swing(16, 0.6))[1].groove.feel.swing.ratio == 0.6
    new = edits.set_lean(document, ("hat_closed", "hat_open"), -4.0)[1]
    assert new.groove.feel.lean_of("hat_open") == -4
    new = edits.set_looseness(new, 5.0, 3)[1]
    assert (new.groove.feel.loose_ms, new.groove.feel.take) == (5, 3)
    assert edits.straighten(new)[1].groove.feel == Feel()
    assert time_edits.set_tempo(document, 120)[1].groove.tempo.bpm == (120.0,)
    assert time_edits.set_bars(document, 1)[1].groove.pattern.bars == 1
    longer = time_edits.set_bars(document, 4)[1]
    assert time_edits.set_bars(longer, 2)[1] == document
    with pytest.raises(InputError, match="listened"):
        edits.as_heard(document)


def test_nothing_chosen_is_said_and_no_change_is_no_step(document: Document) -> None:
    with pytest.raises(InputError, match="No hit is chosen"):
        edits.set_velocity(document, [], 60)
    hit = pick(document, "kick")
    assert edits.set_offset(document, hit, 0.0)[1] is document


def test_history_goes_back_and_on_in_words(document: Document) -> None:
    history = History(opened(document), commit)
    for velocity in (60, 70, 80):
        history.do(*edits.set_velocity(history.document, pick(history.document, "kick"), velocity))
    last = history.document
    assert history.undo() == "Kick 1: 70 → 80" and history.redo_words == "Kick 1: 70 → 80"
    assert history.undo() and history.undo() and history.undo() is None
    assert history.document.groove == document.groove and not history.unsaved
    while history.redo():
        pass
    assert history.document == last and history.unsaved
    history.mark_saved(history.document)
    assert not history.unsaved
    history.undo()
    history.do("other", replace(history.document, name="y"))
    assert history.redo() is None


def test_history_is_bounded(document: Document) -> None:
    history = History(opened(document), commit)
    for i in range(MAX_STEPS + 10):
        history.do(str(i), replace(document, name=str(i)))
    count = 0
    while history.undo():
        count += 1
    assert count == MAX_STEPS - 1


RANDOM_EDITS = [
    lambda d, rng, hits: edits.place_hits(d, [int(rng.integers(32)) * 5040 % d.groove.pattern.length_ticks], "kick"),
    lambda d, rng, hits: edits.remove_hits(d, hits),
    lambda d, rng, hits: edits.change_velocity(d, hits, int(rng.integers(-60, 60))),
    lambda d, rng, hits: edits.nudge(d, hits, float(rng.normal(0, 5))),
    lambda d, rng, hits: edits.move_hits(d, hits, int(rng.integers(-3, 4)) * 5040),
    lambda d, rng, hits: edits.set_role(d, hits, Role(rng.choice([r.value for r in Role]))),
    lambda d, rng, hits: edits.set_swing(d, Swing(16, float(rng.uniform(0.5, 0.7)))),
    lambda d, rng, hits: time_edits.set_bars(d, int(rng.integers(1, 6))),
]


@given(documents, st.integers(0, 2**32 - 1))
@settings(max_examples=25, deadline=None)
def test_any_edits_taken_back_leave_the_document_as_it_was(document: Document, seed: int) -> None:
    rng, history = np.random.default_rng(seed), History(opened(document), commit)
    for _ in range(60):
        hits = history.document.groove.pattern.hits
        some = [hits[i] for i in rng.integers(len(hits), size=min(3, len(hits)))] if hits else []
        try:
            history.do(*RANDOM_EDITS[int(rng.integers(len(RANDOM_EDITS)))](history.document, rng, some))
        except InputError as error:
            assert str(error)
    last = history.document
    while history.undo():
        pass
    assert history.document.groove == document.groove
    while history.redo():
        pass
    assert history.document == last


def test_history_of_long_grooves_holds_few_bytes(document: Document, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("ghoststep.session.document.history.MAX_BYTES", 60_000)
    history = History(opened(document), commit)
    for i in range(80):
        _, changed = time_edits.set_tempo(history.document, 60 + i)
        history.do(f"step {i}", changed)
    assert len(history.words) < 32 and history.words[-1] == "step 79" and history.document.groove.tempo.main_bpm == 139
    kept = len(history.words)
    while history.undo():
        pass
    assert history.at == 0 and history.words[0] == f"step {80 - kept}"
    # What was taken back and is dropped by a new step no longer counts.
    for i in range(10):
        history.do(f"again {i}", time_edits.set_tempo(history.document, 200 + i)[1])
    assert history.words[1:] == [f"again {i}" for i in range(10)]


def test_any_step_can_be_gone_to(document: Document) -> None:
    history = History(opened(document), commit)
    for i in range(5):
        history.do(f"step {i}", time_edits.set_tempo(history.document, 60 + i)[1])
    assert history.go_to(2) == "step 1" and history.document.groove.tempo.main_bpm == 61
    assert history.go_to(99) == "step 4" and history.redo_words is None and history.go_to(-3) == "opened"
