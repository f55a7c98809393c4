"""Strokes that may be ones: offered, alike in other bars, taken or dropped, kept in projects and analyses."""

from dataclasses import replace
from pathlib import Path

import msgspec
import pytest

from ghoststep.feel.perform import perform
from ghoststep.files.project import load_project, save_project
from ghoststep.files.textgrid import parse_grid
from ghoststep.listen.bars.reading import Hints
from ghoststep.listen.strokes.perhaps import Perhaps
from ghoststep.music.errors import InputError
from ghoststep.music.time import TICKS_PER_QUARTER
from ghoststep.session.document.document import Document
from ghoststep.work import corrections
from ghoststep.work.grooves import analysis_of
from ghoststep.work.hits_heard import heard_performance
from ghoststep.work.offers import alike, drop, offers, take

BEAT_S = 0.6
Q = TICKS_PER_QUARTER


@pytest.fixture
def document() -> Document:
    """Four bars of rock at 100, and ghosts on the a of 2 of bars 2 and 4 and a kick on 3& of bar 1 that may be ones."""
    lanes = {"hat_closed": "x-x-x-x-x-x-x-x-", "snare": "----X-------X---", "kick": "X-------X-------"}
    text = "tempo 100\n" + "\n".join(f"{name} {' | '.join([bar] * 4)}" for name, bar in lanes.items())
    made = heard_performance(perform(parse_grid(text)), "yard", Hints(tempo_bpm=100))
    assert made.listening is not None
    ghosts = [Perhaps((4 * bar + 1.75) * BEAT_S + 0.004, "snare", 30, 0.45) for bar in (1, 3)]
    kick = Perhaps(2.5 * BEAT_S, "kick", 60, 0.6)
    return replace(made, listening=replace(made.listening, perhaps=(kick, *ghosts)))


def test_each_stands_at_its_spot(document: Document) -> None:
    found = offers(document)
    assert [(o.perhaps.voice, o.bar, o.spot) for o in found] == [
        ("kick", 1, "3&"),
        ("snare", 2, "2a"),
        ("snare", 4, "2a"),
    ]
    assert found[1].position_ticks == 4 * Q + 7 * Q // 4
    assert alike(found, found[1]) == found[1:] and alike(found, found[0]) == found[:1]


def test_what_is_taken_is_a_hit_and_undo_brings_the_offer_back(document: Document) -> None:
    found = offers(document)
    words, taken = take(document, alike(found, found[1]))
    assert words == "Perhaps: snare 2a in bars 2, 4 taken"
    spots = [h.position_ticks for h in taken.groove.pattern.hits if h.voice == "snare" and h.velocity == 30]
    assert spots == [found[1].position_ticks, found[2].position_ticks]
    assert [o.perhaps.voice for o in offers(taken)] == ["kick"]
    assert len(offers(corrections.no_corrections(taken)[1])) == 3


def test_another_drum_at_the_same_spot_is_not_alike(document: Document) -> None:
    assert document.listening is not None
    tom = Perhaps((4 * 2 + 1.75) * BEAT_S, "tom_low", 50, 0.5)
    known = document.listening
    found = offers(replace(document, listening=replace(known, perhaps=(*known.perhaps, tom))))
    ghost = next(o for o in found if o.perhaps.voice == "snare")
    assert {o.spot for o in found if o.perhaps.voice in ("snare", "tom_low")} == {"2a"}
    assert [o.perhaps.voice for o in alike(found, ghost)] == ["snare", "snare"]


def test_what_is_dropped_changes_nothing_that_is_played(document: Document) -> None:
    words, dropped = drop(document, offers(document)[:1])
    assert words == "Perhaps: kick 3& in bar 1 dropped"
    assert dropped.groove == document.groove and [o.perhaps.voice for o in offers(dropped)] == ["snare", "snare"]
    refitted = corrections.times_as_fast(dropped, 2)[1]
    assert [o.bar for o in offers(refitted)] == [3, 7]


def test_nothing_offered_is_nothing_to_take(document: Document) -> None:
    with pytest.raises(InputError, match="Nothing is offered"):
        take(document, ())
    assert offers(Document()) == ()


def test_they_are_kept_in_projects_with_their_answers(document: Document, tmp_path: Path) -> None:
    path = tmp_path / "a.ghoststep"
    save_project(path, drop(document, offers(document)[:1])[1])
    again = load_project(path)
    assert again.listening is not None and document.listening is not None
    assert again.listening.perhaps == document.listening.perhaps
    assert [o.bar for o in offers(again)] == [2, 4]
    assert again.listening.explained.readings == document.listening.explained.readings


def test_the_analysis_has_them_apart_from_the_hits(document: Document) -> None:
    told = msgspec.json.decode(msgspec.json.encode(analysis_of(document)))
    assert [p["confidence"] for p in told["perhaps"]] == [0.6, 0.45, 0.45]
    ghost = told["perhaps"][1]
    assert (ghost["voice"], ghost["bar"], ghost["position_beats"], ghost["ghost"]) == ("snare", 2, "7/4", True)
    assert ghost["offset_ms"] == pytest.approx(4, abs=0.2) and len(told["hits"]) == len(document.groove.pattern.hits)
    first = told["readings"][0]
    assert set(first) >= {"tempo_bpm", "meter", "downbeat_s", "why"} and first["meter"] == [4, 4]
