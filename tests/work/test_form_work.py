"""The form of what was heard or read: proposed, told, as JSON, and its sections by themselves."""

from pathlib import Path

import pytest
from bench.songs import grouped_right, made

from ghoststep.files.demo import demo_recordings
from ghoststep.files.keymap import general_midi_keys
from ghoststep.files.textgrid import parse_grid, parse_text
from ghoststep.judge.form_found import found_form, letter
from ghoststep.listen.bars.reading import Hints
from ghoststep.music.errors import InputError
from ghoststep.session.document.document import Document
from ghoststep.session.language.forms.words import song
from ghoststep.work.forms import form_json, form_lines, markers_of, proposed, section_of, text_of
from ghoststep.work.grooves import analysis_of, hear_file

SONG = """tempo 100
part A
kick x---x---x---x---
part B = A
  remove kick at 4
section verse = A B
  tempo 120
  lean kick +5
section last = A x2 | ending B
form = verse verse last
"""


def document() -> Document:
    form, groove = parse_text(SONG)
    return Document("song", groove, form=form)


def test_made_songs_get_the_letters_and_sections_they_were_made_of() -> None:
    shares, found, missed, wrong = [], 0, 0, 0
    for seed in range(300, 320):
        made_one = made(seed)
        form = found_form(made_one.groove)
        row = [form.letter_of(bar) for bar in range(1, made_one.groove.pattern.bars + 1)]
        shares.append(grouped_right(made_one.letters, row))
        starts, true = {s.first_bar for s in form.sections}, set(made_one.starts)
        found, missed, wrong = found + len(starts & true), missed + len(true - starts), wrong + len(starts - true)
    assert sum(shares) / len(shares) >= 0.95
    assert found / (found + missed) >= 0.85 and found / (found + wrong) >= 0.85


def test_a_proposed_form_plays_what_was_there() -> None:
    for seed in range(400, 406):
        groove = made(seed).groove
        _, form = proposed(groove)
        played = song(form, groove)
        crashes = {
            "crash",
            "hat_closed",
            "ride",
        }  # crashes at the beginning of sections are the bar's and not the part's

        def told(g, without=crashes):  # type: ignore[no-untyped-def]
            return [(h.position_ticks, h.voice) for h in g.pattern.hits if h.voice not in without]

        assert told(played) == told(groove) and form.bars == groove.pattern.bars


def test_a_recording_gets_its_form_in_words_about_the_part_and_not_about_touch() -> None:
    heard = hear_file(demo_recordings()[0], general_midi_keys(), Hints())
    _, form = proposed(heard.groove)
    assert [s.part for s in form.stretches()] == list("ABAC")
    changes = form.part("B").changes
    assert changes and not any(c.startswith(("velocity", "offset", "limb")) for c in changes)
    told = analysis_of(heard)["form"]
    assert told["parts"][1]["base"] == "A" and told["parts"][1]["changes"] == list(changes)
    assert told["parts"][0]["bars"] == [1, 3] and told["sections"][0]["parts"] == ["A", "B", "A", "C"]


def test_a_section_by_itself_has_its_tempo_and_feel() -> None:
    verse, last = section_of(document(), "verse"), section_of(document(), "last")
    assert verse.pattern.bars == 2 and verse.tempo.main_bpm == 120 and verse.feel.lean_of("kick") == 5
    assert last.pattern.bars == 3 and last.tempo.bpm_at(0) == 100 and last.feel.lean_of("kick") == 0
    assert section_of(document(), None) is not verse
    with pytest.raises(InputError, match="no section 'bridge'"):
        section_of(document(), "bridge")
    with pytest.raises(InputError, match="no sections"):
        section_of(Document("plain", parse_grid("kick x---------------")), "verse")


def test_markers_lines_and_text_say_the_form() -> None:
    assert markers_of(document()) == ((0, "verse"), (2 * 80640, "verse"), (4 * 80640, "last"))
    assert markers_of(Document("plain")) == ()
    lines = form_lines(document().form)  # type: ignore[arg-type]
    assert lines[:2] == ["A: 1 bar", "B = A, but remove kick at 4"]
    assert lines[2] == "bars 1-2  verse: A B, 120 BPM" and lines[-1] == "bars 5-7  last: A A B"
    assert "part B = A" in text_of(document()) and "part" not in text_of(Document("plain"))


def test_letters_go_on_behind_z_and_one_bar_is_a_form_too(tmp_path: Path) -> None:
    assert [letter(k) for k in (0, 25, 26, 51, 52)] == ["A", "Z", "A2", "Z2", "A3"]
    told = form_json(parse_grid("kick x---------------"))
    assert told == {
        "parts": [{"name": "A", "bars": [1]}],
        "sections": [{"name": "s1", "bar": 1, "bars": 1, "parts": ["A"]}],
    }
