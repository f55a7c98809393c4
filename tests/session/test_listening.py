"""Corrections as edits of the document: the rest is fitted anew, and edits on the grid live on."""

import json
import zipfile
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest

from ghoststep.feel.perform import perform
from ghoststep.files.project import load_project, save_project
from ghoststep.files.textgrid import parse_grid
from ghoststep.listen.bars.reading import Hints
from ghoststep.listen.corrections import FixKind
from ghoststep.music.errors import InputError
from ghoststep.music.meter import Meter
from ghoststep.music.performance import Performance
from ghoststep.music.time import TICKS_PER_QUARTER
from ghoststep.session.document.document import Document
from ghoststep.session.edits import hit_edits as edits
from ghoststep.session.edits.commit import opened
from ghoststep.session.language.doing import commit
from ghoststep.work import corrections as listening
from ghoststep.work.hits_heard import heard_performance

ROCK = """
    tempo 96
    hat_closed  x-x-x-x-x-x-x-x- | x-x-x-x-x-x-x-x- | x-x-x-x-x-x-x-x- | x-x-x-x-x-x-x-x-
    snare       ----X--o-o--X--o | ----X--o-o--X--- | ----X--o-o--X--o | ----X--o-o--X---
    kick        X------x--X----- | X------x--X---x- | X------x--X----- | X------x--X---x-
"""


@pytest.fixture
def heard() -> Document:
    p = perform(parse_grid(ROCK)).ordered()
    noise = np.random.default_rng(2).normal(0, 0.002, len(p))
    moved = Performance(p.onset_s + 0.4 + noise, p.voice, p.velocity, p.stroke, p.length_s + 1)
    document = heard_performance(moved, "rock", Hints())
    sure = tuple(np.where(np.arange(len(p)) % 5 == 0, 0.5, 1.0) - np.arange(len(p)) * 1e-4)
    h = document.listening
    assert h is not None
    return replace(
        document,
        listening=listening.listening_of(h.heard, sure, Hints(), h.corrections, ()),
        groove=listening.listening_of(h.heard, sure, Hints(), h.corrections, ()).explained.groove.changed(name="rock"),
    )


def at(document: Document, voice: str, ticks: int):
    found = document.groove.pattern.at(ticks, voice)
    assert found is not None
    return found


def test_a_corrected_voice_changes_that_hit_and_no_other(heard: Document) -> None:
    hit = at(heard, "snare", TICKS_PER_QUARTER)
    words, new = listening.correct_voice(heard, [hit], "tom_mid")
    assert words == "Snare at bar 1, 2 is tom mid"
    assert new.groove.pattern.at(TICKS_PER_QUARTER, "tom_mid") is not None
    assert len(new.groove.pattern.hits) == len(heard.groove.pattern.hits)
    assert heard.listening is not None and not heard.listening.corrections.fixes  # the old document is as it was


def test_an_answer_goes_for_all_that_are_alike_and_is_fitted_once(heard: Document) -> None:
    hat = at(heard, "hat_closed", TICKS_PER_QUARTER // 2)
    alike, every = (listening.alike(heard, hat, anywhere=anywhere) for anywhere in (False, True))
    assert len({h.position_ticks % heard.groove.pattern.meter.bar_ticks for h in alike}) == 1 and hat in alike
    assert len(alike) == heard.groove.pattern.bars < len(every)
    words, new = listening.correct_voice(heard, alike, "ride")
    assert words == f"Hat closed, {len(alike)} strokes in bars 1-{len(alike)}, are ride"
    assert sum(h.voice == "ride" for h in new.groove.pattern.hits) == len(alike)
    words, new = listening.not_a_hit(heard, every)
    assert words.endswith("are no hits") and not any(h.voice == "hat_closed" for h in new.groove.pattern.hits)
    words, new = listening.confirm(heard, every)
    assert words.endswith("are right") and listening.next_doubt(new, None, limit=0.75) != hat
    mixed = (*alike[:1], at(heard, "kick", 0))
    _, new = listening.correct_voice(heard, mixed, "kick")  # what is one already stays as it is
    assert new.listening is not None and len(new.listening.corrections.fixes) == 1


def test_the_next_doubt_is_none_of_those_that_were_answered_with_it(heard: Document) -> None:
    doubts = [h for h in heard.groove.pattern.hits if h.origin and h.origin.confidence < 0.75]
    first = listening.next_doubt(heard, None, limit=0.75)
    assert first is not None
    other = next(h for h in doubts if h.key != first.key)
    kept = {h.key for h in doubts if h.key != other.key}
    assert listening.next_doubt(heard, first, limit=0.75, but=kept) == other
    assert listening.next_doubt(heard, first, limit=0.75, but={h.key for h in doubts}) == first  # none is left


def test_corrections_add_up_and_come_off(heard: Document) -> None:
    steps = [
        lambda d: listening.not_a_hit(d, [at(d, "kick", 0)]),
        lambda d: listening.missed_hit(d, 0.4 + 60 / 96 * 3.5, "crash", 90),
        lambda d: listening.times_as_fast(d, 2),
        lambda d: listening.correct_voice(d, [d.groove.pattern.hits[5]], "ride"),
        lambda d: listening.beat_one(d, 0.4 + 2 * 60 / 96),
        listening.straight_or_swung,
        lambda d: listening.in_meter(d, Meter(3, 4)),
    ]
    document = heard
    for step in steps:
        _, document = step(document)
    assert document.listening is not None
    kinds = [f.kind for f in document.listening.corrections.fixes]
    assert kinds == [FixKind.GONE, FixKind.NEW, FixKind.VOICE]
    assert document.groove.pattern.meter == Meter(3, 4) and not document.groove.feel.swing.straight
    assert document.groove.tempo.main_bpm == pytest.approx(192, rel=0.02)
    _, plain = listening.no_corrections(document)
    assert plain.groove == heard.groove


def test_a_spot_can_be_moved_by_a_step(heard: Document) -> None:
    hit = at(heard, "snare", 9 * TICKS_PER_QUARTER // 4)
    _, new = listening.move_spot(heard, [hit], 1)
    moved = new.groove.pattern.at(10 * TICKS_PER_QUARTER // 4, "snare")
    assert (
        moved is not None and moved.offset_ms < -100 and moved.origin == replace(moved.origin, time_s=hit.origin.time_s)
    )
    _, later = listening.not_a_hit(new, [at(new, "kick", 0)])  # another correction keeps it
    assert later.groove.pattern.at(10 * TICKS_PER_QUARTER // 4, "snare") is not None


def test_edits_on_the_grid_live_on_through_corrections(heard: Document) -> None:
    ghost = at(heard, "snare", 7 * TICKS_PER_QUARTER // 4)
    _, edited = edits.set_velocity(heard, [ghost], 61)
    _, edited = edits.place_hits(edited, [TICKS_PER_QUARTER // 4], "tom_low")
    _, edited = edits.remove_hits(edited, [at(edited, "kick", 0)])
    _, edited = edits.set_lean(edited, ["snare"], 9.0)
    _, new = listening.correct_voice(edited, [at(edited, "hat_closed", 0)], "ride")
    assert at(new, "snare", 7 * TICKS_PER_QUARTER // 4).velocity == 61
    assert new.groove.pattern.at(TICKS_PER_QUARTER // 4, "tom_low") is not None
    assert new.groove.pattern.at(0, "kick") is None and new.groove.pattern.at(0, "ride") is not None
    assert new.groove.feel.lean_of("snare") == 9.0
    _, double = listening.times_as_fast(new, 2)  # positions mean other things now, moments do not
    assert at(double, "snare", 7 * TICKS_PER_QUARTER // 2).velocity == 61
    assert double.groove.pattern.at(TICKS_PER_QUARTER // 2, "tom_low") is not None


def test_doubts_come_most_doubtful_first_and_go_when_answered(heard: Document) -> None:
    first = listening.next_doubt(heard, None, limit=0.75)
    assert first is not None and first.origin is not None
    assert first.origin.confidence == min(h.origin.confidence for h in heard.groove.pattern.hits if h.origin)
    second = listening.next_doubt(heard, first, limit=0.75)
    assert second is not None and second.origin is not None and second.origin.confidence >= first.origin.confidence
    document, asked = heard, 0
    while (doubt := listening.next_doubt(document, None, limit=0.75)) is not None:
        _, document = listening.confirm(document, [doubt])
        asked += 1
    assert asked == sum(c < 0.75 for c in (heard.listening.confidence if heard.listening else ()))


def test_what_cannot_be_is_said(heard: Document) -> None:
    with pytest.raises(InputError, match="Nothing was listened to"):
        listening.beat_one(Document(), 1.0)
    _, edited = edits.place_hits(heard, [TICKS_PER_QUARTER // 4], "tom_low")
    with pytest.raises(InputError, match="does not come from the recording"):
        listening.confirm(edited, [at(edited, "tom_low", TICKS_PER_QUARTER // 4)])
    with pytest.raises(InputError, match="BPM"):
        listening.times_as_fast(heard, 40)


def test_a_saved_project_keeps_what_was_heard_and_said(heard: Document, tmp_path) -> None:
    _, document = listening.not_a_hit(heard, [at(heard, "kick", 0)])
    _, document = listening.in_meter(document, Meter(7, 8, (3, 2, 2)))
    path = tmp_path / "a.ghoststep"
    save_project(path, document)
    back = load_project(path)
    assert back.groove == document.groove and back.listening is not None and document.listening is not None
    assert back.listening.corrections == document.listening.corrections
    assert back.listening.sure == document.listening.sure
    _, plain = listening.no_corrections(back)
    assert plain.groove == heard.groove


SINCE_2 = ("passages", "lost_s", "length_s", "heard", "hints", "corrections", "fixes", "closed_s")


def as_of_version(path: Path, version: int) -> Path:
    """A project as an earlier version would have written it, beside the new one."""
    with zipfile.ZipFile(path) as archive:
        content = json.loads(archive.read("project.json"))
    content["version"] = version
    content.pop("next_key", None)
    if version == 1:
        for name in SINCE_2:
            content["listening"].pop(name, None)
    for groove in (content["groove"], content["listening"]["groove"]):
        for row in groove["hits"]:
            row.pop("key", None)
            if version == 1:
                row.pop("heard_as", None)
    old = path.with_name(f"version-{version}.ghoststep")
    with zipfile.ZipFile(old, "w") as archive:
        archive.writestr("project.json", json.dumps(content))
    return old


@pytest.mark.parametrize("version", [1, 2, 3])
def test_projects_of_earlier_versions_open_and_can_be_corrected(heard: Document, tmp_path: Path, version: int) -> None:
    path = tmp_path / "new.ghoststep"
    ghost = at(heard, "snare", 7 * TICKS_PER_QUARTER // 4)
    _, edited = edits.set_velocity(heard, [ghost], 61)
    _, edited = edits.place_hits(edited, [TICKS_PER_QUARTER // 4], "tom_low")
    save_project(path, edited)
    document = opened(load_project(as_of_version(path, version)))
    keys = [h.key for h in document.groove.pattern.hits]
    assert all(keys) and len(set(keys)) == len(keys)
    _, new = commit(document, listening.correct_voice(document, [at(document, "snare", TICKS_PER_QUARTER)], "tom_mid"))
    assert new.groove.pattern.at(TICKS_PER_QUARTER, "tom_mid") is not None
    assert len(new.groove.pattern.hits) == len(edited.groove.pattern.hits)
    # What was edited before the project was saved lives on.
    assert at(new, "snare", 7 * TICKS_PER_QUARTER // 4).velocity == 61 and at(new, "tom_low", TICKS_PER_QUARTER // 4)
