"""Songs: parts, variations, sections and the form in text, unrolled, kept in projects and written again."""

from pathlib import Path

import pytest
from bench.songs import made

from ghoststep.feel.perform import perform
from ghoststep.files.project import load_project, save_project
from ghoststep.files.textgrid import parse_grid, parse_text
from ghoststep.files.textgrid_song_out import song_text
from ghoststep.music.errors import InputError
from ghoststep.music.form import Form
from ghoststep.music.groove import Groove
from ghoststep.session.document.document import Document

HEAD = "tempo 100\nmeter 4/4\ngrid 16\n"
A = "part A\nhat_closed x---x---x---x---\nsnare --------X-------\nkick x---x-x---------\n"
SONG = f"""{HEAD}{A}part B = A
  move kick 2 to 1&
part C = A
  remove kick at 2
section verse = A B C x2 B
section last = A x2 | ending C
form = verse last
"""


def song(text: str) -> tuple[Form, Groove]:
    form, groove = parse_text(text)
    assert form is not None
    return form, groove


def kicks(groove: Groove, bar: int) -> list[int]:
    start = groove.pattern.frame.start_of(bar)
    return [(h.position_ticks - start) // 5040 for h in groove.pattern.hits
            if h.voice == "kick" and start <= h.position_ticks < start + 80640]  # fmt: skip


def test_a_song_in_ten_lines_plays_its_parts_in_order() -> None:
    form, groove = song(SONG)
    row = [s.part for s in form.stretches()]
    assert row == list("ABCCB") + list("AAC") and groove.pattern.bars == 8
    told = {"A": [0, 4, 6], "B": [0, 2, 6], "C": [0, 6]}
    assert [kicks(groove, bar) for bar in range(1, 9)] == [told[x] for x in row]
    assert len(perform(groove)) == len(parse_grid(SONG).pattern.hits)


def test_two_endings_repeat_the_body_and_parts_may_have_other_meters_and_grids() -> None:
    text = f"""{HEAD}{A}part D
meter 7/8 2+2+3
grid 8
kick x--x--x
section one = A | ending A | ending D
section two = D x2
  tempo 120
form = one two
"""
    form, groove = song(text)
    assert [s.part for s in form.stretches()] == ["A", "A", "A", "D", "D", "D"]
    frame = groove.pattern.frame
    assert [str(frame.meter_of(b)) for b in (3, 4, 6)] == ["4/4", "7/8", "7/8"] and groove.pattern.bars == 6
    assert groove.tempo.bpm_at(frame.start_of(4)) == 100 and groove.tempo.bpm_at(frame.start_of(5)) == 120
    assert groove.pattern.grid_at("kick", frame.start_of(4)) == 8


def test_one_bar_of_a_section_is_an_exception() -> None:
    form, groove = song(SONG.replace("section last", "  bar 5 place hat_open 4 as accent\nsection last"))
    open_ones = [
        groove.pattern.frame.spot_at(h.position_ticks).bar for h in groove.pattern.hits if h.voice == "hat_open"
    ]
    assert open_ones == [5] and form.section("verse").exceptions == ((5, "place hat_open 4 as accent"),)


def test_without_a_form_the_sections_follow_and_without_sections_the_parts() -> None:
    form, _ = song(SONG.replace("form = verse last\n", ""))
    assert [s.name for s in form.played] == ["verse", "last"]
    form, groove = song(SONG.split("section")[0])
    assert [s.part for s in form.stretches()] == ["A", "B", "C"] and groove.pattern.bars == 3


@pytest.mark.parametrize("seed", range(12))
def test_a_song_that_is_written_reads_back_the_same(seed: int, tmp_path: Path) -> None:
    groove = made(seed).groove
    form, groove = song(SONG) if seed == 0 else (None, groove)
    if form is None:
        from ghoststep.work.forms import proposed

        form = proposed(groove)[1]
        from ghoststep.session.language.forms.words import song as played

        groove = played(form, groove)
    text = song_text(form, groove)
    again, unrolled = song(text)
    assert again == form and unrolled.pattern == groove.pattern and unrolled.tempo == groove.tempo
    save_project(tmp_path / "a.ghoststep", Document("a", groove, form=form))
    kept = load_project(tmp_path / "a.ghoststep")
    assert kept.form == form and kept.groove.pattern == groove.pattern


@pytest.mark.parametrize(
    ("text", "words"),
    [
        (f"{HEAD}section v = A", "no part"),
        (f"{HEAD}{A}section v = A Z", "There is no part 'Z'"),
        (f"{HEAD}{A}form = chorus", "There is no section 'chorus'"),
        (f"{HEAD}{A}part A\nkick x---------------", "two parts called A"),
        (f"{HEAD}part B = Z\n{A}", "There is no part 'Z'"),
        (f"{HEAD}part B = C\npart C = B\n{A}", "There is no part"),
        (f"{HEAD}{A}part B = B", "variation of itself"),
        (f"{HEAD}{A}part B = A\n  move kick 9 to 1", "line 9: 'move kick 9 to 1' does not fit A"),
        (f"{HEAD}{A}section v = A | finale A", "no ending"),
        (f"{HEAD}{A}section v = A x0", "x0"),
        (f"{HEAD}{A}section v = A x9999", "does not fit"),
        (f"{HEAD}{A}section v = A x999 A x999 A x999 A x999 A x999", "at most 4096"),
        (f"{HEAD}{A}section v = A\nform = v\nform = v", "second time"),
        (f"{HEAD}{A}section v = A\n  louder please", "says nothing of a section"),
        (f"{HEAD}{A}section v = A\n  bar 3 remove kick", "no bar 3"),
        (f"{HEAD}part A\nkick x---", "line 5"),
        (f"{HEAD}part", "no part"),
    ],
)
def test_what_cannot_be_a_song_is_said_with_its_line(text: str, words: str) -> None:
    with pytest.raises(InputError) as error:
        parse_text(text)
    assert words in str(error.value)


def test_a_base_may_stand_behind_its_variation() -> None:
    form, groove = song(f"{HEAD}part B = A\n  move kick 2 to 1&\n{A}section v = B A")
    assert [p.name for p in form.parts] == ["B", "A"] and kicks(groove, 1) == [0, 2, 6]


def test_variations_in_a_circle_are_refused() -> None:
    from ghoststep.music.form import Part

    pattern = parse_grid("kick x---------------").pattern
    with pytest.raises(InputError, match="circle"):
        Form((Part("A", pattern, "B"), Part("B", pattern, "A")))


def test_a_part_takes_the_meter_of_its_sections_where_they_agree() -> None:
    odd = "tempo 90\npart D\nkick x-x-x-x-x-x-x-\nsection a = D\n  meter 7/8 2+2+3\n"
    assert str(song(odd)[0].part("D").pattern.meter) == "7/8"
    both = "tempo 90\npart D\nkick x---x---x---x---\nsection a = D\n  meter 2/2\nsection b = D\n"
    form, groove = song(both)
    assert str(form.part("D").pattern.meter) == "4/4"
    assert [str(groove.pattern.frame.meter_of(bar)) for bar in (1, 2)] == ["2/2", "4/4"]
    form, _ = song(both + "  meter 8/8 3+3+2\n")
    assert str(form.part("D").pattern.meter) == "4/4"
