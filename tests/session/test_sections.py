"""Sections: what leads in, by what cue they end, their meter, and their rows edited with exceptions that stay."""

from pathlib import Path

import pytest

from ghoststep.files.project import load_project, save_project
from ghoststep.files.textgrid import parse_text
from ghoststep.files.textgrid_song_out import song_text
from ghoststep.music.errors import InputError
from ghoststep.session.document.document import Document
from ghoststep.session.edits.commit import opened
from ghoststep.session.language.doing import do
from ghoststep.session.language.edit_context import EditContext
from ghoststep.work.forms import form_lines, markers_of, section_of

BAR = 80_640
SONG = """tempo 100
part A
hat_closed x-x-x-x-x-x-x-x-
snare      ----X-------X---
kick       X-----x---------
part B = A
  move kick 2& to 3
part H
crash      X---x-x---------
kick       X---x-x---------
section verse = A B x2 A
  cue to chorus fill-in 2 cell RLLK
  cue place snare 4a as accent
section chorus = B A | ending B | ending A
  before H
  bar 2 place hat_open 4&
form = verse verse chorus verse
"""


def context(text: str = SONG) -> EditContext:
    form, groove = parse_text(text)
    return EditContext(opened(Document("song", groove, form=form)))


def after(at: EditContext, *phrases: str) -> EditContext:
    for phrase in phrases:
        _, at = do(at, phrase)
    return at


def row(at: EditContext) -> str:
    return " ".join(s.part for s in at.document.form.stretches())


def struck(at: EditContext, bar: int, voice: str) -> list[int]:
    start = at.document.groove.pattern.frame.start_of(bar)
    length = at.document.groove.pattern.frame.length_of(bar)
    return [
        (h.position_ticks - start) // 5040
        for h in at.document.groove.pattern.hits
        if h.voice == voice and start <= h.position_ticks < start + length
    ]


def test_bars_of_hits_lead_into_a_section_where_it_is_come_to_and_not_where_it_repeats() -> None:
    assert row(context()) == "A B B A A B B A H B A B B A A A B B A"
    twice = context(SONG.replace("form = verse verse chorus verse", "form = chorus chorus verse chorus"))
    assert row(twice).count("H") == 2 and row(twice).startswith("H B A B B A A B A")


def test_a_cue_says_what_comes_next_and_a_fill_lands_in_it() -> None:
    song = context()
    assert struck(song, 4, "snare") == [4, 12]  # the verse follows itself: no cue
    assert struck(song, 8, "snare") == [4, 8, 9, 10] and struck(song, 8, "tom_high") == [12, 13, 14]
    assert struck(song, 9, "crash") == [0, 4, 6]  # the fill's crash is the hits' own
    assert struck(song, 19, "snare") == [4, 12]  # nothing follows the last verse
    other = context(SONG.replace("form = verse verse chorus verse", "section last = B\nform = verse last"))
    assert struck(other, 4, "snare") == [4, 12, 15]  # the cue of any other section
    named = [p.cues for p in song.document.form.passes]
    assert named == [(), ("fill-in 2 cell RLLK",), (), ()]


def test_a_count_in_is_clicks_on_the_beats_of_the_sections_meter() -> None:
    song = after(context(), "count-in 2 before verse")
    assert row(song).startswith("count count A B B A A B B A H")
    assert struck(song, 1, "cross_stick") == [0, 4, 8, 12]
    assert row(after(song, "count-in 0 before verse")) == row(context())
    with pytest.raises(InputError, match="from 0 to 8"):
        after(song, "count-in 9 before verse")
    seven = context(
        "tempo 90\npart D\nkick x-x-x-x-x-x-x-\nsection odd = D\n  meter 7/8 2+2+3\n  count-in 1\nform = odd\n"
    )
    assert struck(seven, 1, "cross_stick") == [0, 4, 8] and seven.document.groove.pattern.meter.numerator == 7


def test_a_sections_meter_is_that_of_its_parts_or_counts_bars_as_long_otherwise() -> None:
    words, cut = do(context(), "section-meter 2/2 in chorus")
    assert "'place hat_open 4&' in bar 2 of chorus no longer fits, and is kept" in words
    frame = cut.document.groove.pattern.frame
    assert str(frame.meter_of(10)) == "2/2" and str(frame.meter_of(8)) == str(frame.meter_of(17)) == "4/4"
    assert any("in 2/2" in line for line in form_lines(cut.document.form))
    with pytest.raises(InputError, match="No bar of chorus is as long"):
        after(context(), "section-meter 7/8 in chorus")
    edited = after(cut, "place cowbell 2 bars 10")
    assert str(edited.document.form.part("B").pattern.meter) == "4/4"  # the part keeps its own
    mixed = context(
        "tempo 90\npart A\nkick x---------------\npart D\nmeter 7/8\nkick x-------------\nsection s = A D\n"
    )
    assert any("in 4/4 and 7/8" in line for line in form_lines(mixed.document.form))


def test_all_of_it_is_written_read_and_kept(tmp_path: Path) -> None:
    song = after(context(), "count-in 1 before verse", "section-meter 2/2 in chorus", "lead-in verse = H count")
    document = song.document
    assert parse_text(song_text(document.form, document.groove))[0] == document.form
    path = tmp_path / "song.ghoststep"
    save_project(path, document)
    assert load_project(path).form == document.form
    markers = {name: tick // BAR + 1 for tick, name in markers_of(document)}
    assert markers["before verse"] == 18 and markers["chorus"] == 12
    assert section_of(document, "chorus").pattern.bars == 6  # without what leads into it


def test_feels_of_sections_and_forms_of_kept_versions_come_back_from_a_project(tmp_path: Path) -> None:
    song = after(context(SONG.replace("  before H", "  before H\n  swing 16 0.6")), "keep first", "song-order 2 out")
    path = tmp_path / "song.ghoststep"
    save_project(path, song.document)
    again = load_project(path)
    assert again.groove.feels == song.document.groove.feels != ()
    back = after(EditContext(opened(again)), "back-to first")
    assert row(back).startswith("A B B A A B B A H") and back.document.groove.feels == again.snapshots[0].groove.feels
    assert len(back.document.groove.feels) == 2


def test_rows_are_edited_and_exceptions_stay_with_their_bar() -> None:
    song = after(context(), "put-in H into chorus place 1")
    assert " ".join(song.document.form.section("chorus").row) == "H B A B H B A A"
    assert song.document.form.section("chorus").exceptions == ((3, "place hat_open 4&"),)
    assert struck(song, 12, "hat_open") == [14]
    moved = after(song, "reorder 3 to 1 of chorus")
    assert moved.document.form.section("chorus").exceptions == ((1, "place hat_open 4&"),)
    gone = after(moved, "take-out 1 of chorus")
    assert gone.document.form.section("chorus").exceptions == ()
    assert " ".join(gone.document.form.section("chorus").row) == "H B B H B A"
    ended = after(context(), "put-in H into chorus")
    assert " ".join(ended.document.form.section("chorus").row) == "B A B B A A H"  # at the end: of the last ending
    with pytest.raises(InputError, match="there is no place 9"):
        after(song, "take-out 9 of chorus")
    with pytest.raises(InputError, match="at least one part"):
        after(context(), "take-out 3 of chorus")
    with pytest.raises(InputError, match="at least one part"):
        after(context(), "reorder 3 to 1 of chorus")  # the only part of an ending


def test_a_part_is_played_instead_of_another_and_the_exception_stays() -> None:
    song = after(context(), "instead A in chorus place 2", "instead H in chorus place 1")
    assert " ".join(song.document.form.section("chorus").row) == "H A B H A A"
    assert song.document.form.section("chorus").exceptions == ((2, "place hat_open 4&"),)
    with pytest.raises(InputError, match="no part 'Q'"):
        after(context(), "instead Q in chorus place 1")


def test_parts_without_sections_become_one_and_the_order_of_sections_changes() -> None:
    song = context(SONG.split("section")[0])
    assert row(after(song, "put-in A into all place 2")) == "A A B H"
    order = after(context(), "song-order 3 earlier", "song-order 1 again", "song-order 4 out")
    assert order.document.form.order == ("verse", "verse", "chorus", "verse")
    with pytest.raises(InputError, match="no place 9"):
        after(context(), "song-order 9 out")


def test_what_names_nothing_or_fits_nowhere_is_said_and_changes_nothing() -> None:
    for text, said in (
        (SONG.replace("before H", "before Q"), "no part 'Q'"),
        (SONG.replace("cue to chorus", "cue to nowhere"), "no section 'nowhere'"),
        (SONG.replace("cue place", "cue nonsense"), "says nothing of the last bar"),
        (SONG.replace("before H", "count-in many"), "1 to 8 bars"),
        (SONG.replace("before H", "cue"), "line 15: .cue. says no phrase"),
        (SONG.replace("before H", "cue to verse"), "says no phrase"),
        (SONG.replace("before H", "meter much"), "is not a meter"),
    ):
        with pytest.raises(InputError, match=said):
            parse_text(text)
    for phrase, said in (
        ("lead-in chorus = Q", "no part 'Q'"),
        ("lead-in chorus", "said like"),
        ("cue verse to chorus by remove tom_low at 3", "It does not fit"),
        ("cue verse by nonsense", "says nothing"),
    ):
        with pytest.raises(InputError, match=said):
            after(context(), phrase)


def test_an_edit_in_a_bar_with_an_exception_leaves_the_exception_out_of_the_part() -> None:
    song = after(context(), "place cowbell 2 bars 11")
    assert struck(song, 1, "cowbell") == [4] and struck(song, 1, "hat_open") == []
    assert struck(song, 11, "hat_open") == [14]


def test_a_stroke_of_an_exception_is_changed_in_the_exception() -> None:
    song = after(context(), "remove hat_open at 4& bars 11")
    assert struck(song, 11, "hat_open") == [] and struck(song, 1, "hat_closed") == [0, 2, 4, 6, 8, 10, 12, 14]
    away = after(context(SONG.replace("place hat_open 4&", "remove kick at 1")), "place kick 1 bars 11")
    assert struck(away, 11, "kick") == [0, 6] and struck(away, 1, "kick") == [0, 6]


def test_a_stroke_of_a_cue_is_changed_in_its_bar_alone() -> None:
    before, song = context(), after(context(), "remove tom_high bars 8")
    assert struck(before, 8, "tom_high") and struck(song, 8, "tom_high") == []
    assert song.document.form.section("verse").cues == before.document.form.section("verse").cues
    assert {s.bar for s in song.document.form.singles} == {8}


def test_a_cue_is_taken_away_and_the_part_is_as_it_was() -> None:
    song = after(context(), "cue verse to chorus by none")
    assert struck(song, 8, "snare") == [4, 12, 15]  # the cue for any other holds now
    assert struck(after(song, "cue verse by none"), 8, "snare") == [4, 12]


def test_a_bar_of_another_length_keeps_its_meter_in_a_section_that_has_one() -> None:
    text = "tempo 90\npart A\nmeter 4/4\nkick x---------------\npart D\nmeter 7/8\nkick x-------------\n"
    frame = context(text + "section s = A D\n  meter 7/8\n").document.groove.pattern.frame
    assert [str(frame.meter_of(bar)) for bar in (1, 2)] == ["4/4", "7/8"]


def test_grace_notes_that_are_alike_leave_every_playing_together() -> None:
    graces = "hit snare bar 1 2 velocity 30 grace\n" * 2
    song = context(f"tempo 90\npart A\nsnare ----x-----------\n{graces}section s = A x3\n")
    assert sum(h.grace for h in song.document.groove.pattern.hits) == 6
    bare = after(song, "remove snare bars 2")
    assert bare.document.groove.pattern.hits == ()


def test_an_exception_in_a_parts_second_bar_moves_with_it() -> None:
    text = "tempo 90\npart A\nkick x--------------- | x-------x-------\npart B\nkick x---x---x---x---\n"
    song = context(text + "section s = B A B\n  bar 3 place cowbell 2\nform = s s\n")
    moved = after(song, "put-in B into s place 1", "reorder 3 to 4 of s")
    assert moved.document.form.section("s").exceptions == ((5, "place cowbell 2"),)
    assert struck(moved, 5, "cowbell") == [4] and struck(moved, 10, "cowbell") == [4]
