"""Versions, parts and sections side by side: single changes with their words, each taken over alone."""

import random
from pathlib import Path

import pytest
from bench.parts import playable

from ghoststep.files.textgrid import parse_grid, parse_text
from ghoststep.music.errors import InputError
from ghoststep.session.document.document import Document, Snapshot
from ghoststep.session.document.takeover import names_of, side, singles, taken_over
from ghoststep.session.edits.commit import opened
from ghoststep.session.edits.version_edits import kept
from ghoststep.session.form.plain import without_keys
from ghoststep.session.language.doing import do
from ghoststep.session.language.edit_context import EditContext

STUDIO = """tempo 100
part A
hat_closed x-x-x-x-x-x-x-x-
snare      ----X-------X---
kick       X-----x---------
part B = A
  move kick 2& to 3
section verse = A B
section last = A
"""
LIVE = STUDIO.replace("tempo 100", "tempo 104").replace("----X-------X---", "----X-o-----X--o")


def context() -> EditContext:
    form, groove = parse_text(STUDIO)
    other, live = parse_text(LIVE)
    return EditContext(opened(kept(Document("studio", groove, form=form), Snapshot("live", live, other))))


def test_changes_are_told_with_numbers_and_taken_over_one_by_one() -> None:
    told, at = do(context(), "differs live")
    assert told.splitlines()[:3] == ["1  The tempo", "2  Bars 1-3: ghost on 2& added", "3  Bars 1-3: ghost on 4a added"]
    words, after = do(at, "take-over live numbers 3")
    assert words.startswith("From live: Bars 1-3: ghost on 4a added; in part A")
    assert after.document.groove.tempo == at.document.groove.tempo
    ghosts = [h.position_ticks // 5040 for h in after.document.groove.pattern.hits if h.role == "ghost"]
    assert ghosts == [15, 31, 47]  # the part has it, and so every bar that plays it
    assert do(after, "take-over live numbers 1")[1].document.groove.tempo.main_bpm == 104


def test_all_changes_taken_over_give_the_other_version() -> None:
    _, after = do(context(), "take-over live")
    _, live = parse_text(LIVE)
    assert without_keys(after.document.groove.pattern) == live.pattern and after.document.groove.tempo == live.tempo


def test_parts_and_sections_stand_beside_each_other() -> None:
    assert names_of(context().document) == [
        "now", "live", "section verse", "section last", "part A", "part B", "section verse of live",
        "section last of live", "part A of live", "part B of live",
    ]  # fmt: skip
    told, _ = do(context(), "differs part B from part A")
    assert told == "1  Bar 1: kick on 2& moves to 3"
    _, after = do(context(), "take-over part B numbers 1 into part A")
    kicks = [h.position_ticks // 5040 for h in after.document.groove.pattern.hits if h.voice == "kick"]
    assert kicks == [0, 8, 16, 24, 32, 40]
    _, later = do(context(), "take-over section verse of live numbers 1 into section last")
    assert sum(h.role == "ghost" for h in later.document.groove.pattern.hits) == 3


def test_what_is_not_there_is_said() -> None:
    for phrase, said in (
        ("differs", "With which"),
        ("differs nothing", "no version 'nothing'"),
        ("differs part Q", "no part 'Q'"),
        ("differs part A from part A", "nothing is different"),
        ("take-over live numbers 99", "there are 1 to"),
        ("take-over live numbers some", "names no changes"),
        ("take-over live into part A of live", "into what there is now"),
        ("differs part A of now2", "no version 'now2'"),
    ):
        with pytest.raises(InputError, match=said):
            do(context(), phrase)
    plain = EditContext(opened(Document("plain", parse_grid("tempo 90\nkick x---------------\n"))))
    with pytest.raises(InputError, match="has no parts"):
        do(plain, "differs part A")


@pytest.mark.parametrize("seed", range(6))
def test_every_single_change_is_independent_of_the_others_and_together_they_are_the_difference(seed: int) -> None:
    rng = random.Random(seed)
    one, other = playable(rng, bars=2), playable(rng, bars=2)
    document = opened(kept(Document("mine", one), Snapshot("theirs", other)))
    mine, theirs = side(document, "now"), side(document, "theirs")
    found = singles(mine, theirs)
    assert found
    rng.shuffle(found)
    groove = document.groove
    for single in found:
        groove = taken_over(groove, mine, [single])
    assert without_keys(groove.pattern).hits == without_keys(theirs.groove.pattern).hits
    assert groove.feel == theirs.groove.feel and groove.tempo == theirs.groove.tempo


def test_another_file_stands_beside_on_the_command_line(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    from ghoststep.cli.main import main

    (tmp_path / "studio.grid.txt").write_text(STUDIO)
    (tmp_path / "live.grid.txt").write_text(LIVE)
    out = tmp_path / "out.grid.txt"
    command = ["edit", str(tmp_path / "studio.grid.txt"), "--beside", str(tmp_path / "live.grid.txt")]
    assert main([*command, "--do", "take-over live numbers 1", "-o", str(out)]) == 0
    assert "From live: The tempo" in capsys.readouterr().out and "tempo 104" in out.read_text()
    assert main([*command, "--do", "differs live", "-o", str(tmp_path / "live.grid.txt")]) == 2


def test_changes_land_in_the_bars_of_the_side_they_are_taken_into() -> None:
    _, after = do(context(), "take-over part A numbers 1 into part B")
    form = after.document.form
    assert [h.position_ticks // 5040 for h in form.part("B").pattern.hits if h.voice == "kick"] == [0, 6]
    assert [h.position_ticks // 5040 for h in form.part("A").pattern.hits if h.voice == "kick"] == [0, 6]
    assert after.document.groove.pattern.bars == 3


def test_what_stands_behind_the_end_of_mine_is_not_offered() -> None:
    long = "tempo 100\npart A\nkick x---------------\npart B\nkick x--------------- | x---x---x---x---\n"
    form, groove = parse_text(long)
    document = opened(Document("long", groove, form=form))
    assert singles(side(document, "part A"), side(document, "part B")) == []
    assert len(singles(side(document, "part B"), side(document, "part A"))) == 4
