"""Formats: one row and one file are all that a way out needs."""

import sys
from pathlib import Path
from types import ModuleType

import pytest

from ghoststep.cli.main import main
from ghoststep.files.keymap import general_midi_keys
from ghoststep.files.textgrid import parse_grid
from ghoststep.music.errors import InputError
from ghoststep.session.document.document import Document
from ghoststep.work import formats
from ghoststep.work.formats import FORMATS, Format, Holds, Output, format_of, is_listenable, opened, plain_name, written
from ghoststep.work.opening import open_document

KEYS = general_midi_keys()
GRID = "tempo 100\nhat_closed x-x-x-x-x-x-x-x-\nsnare ----X-------X---\n"


@pytest.fixture
def document() -> Document:
    return Document("depot", parse_grid(GRID))


@pytest.mark.parametrize("row", [r for r in FORMATS if r.written], ids=lambda r: r.name)
def test_every_format_writes_with_each_of_its_endings_and_says_so(
    row: Format, document: Document, tmp_path: Path
) -> None:
    for ending in row.written:
        path = tmp_path / f"depot{ending}"
        told = written(path, document, Output(KEYS))
        assert path.stat().st_size and told[0].startswith(f"{path.name} written")


@pytest.mark.parametrize("row", [r for r in FORMATS if r.read_as_groove], ids=lambda r: r.name)
def test_what_is_written_is_read_again(row: Format, document: Document, tmp_path: Path) -> None:
    path = tmp_path / f"depot{row.written[0]}"
    written(path, document, Output(KEYS))
    spots = [(h.position_ticks, h.voice, h.velocity) for h in document.groove.pattern.hits]
    assert [(h.position_ticks, h.voice, h.velocity) for h in open_document(path, KEYS).groove.pattern.hits] == spots


@pytest.mark.parametrize(
    ("name", "row", "plain", "heard"),
    [
        ("a.GRID.TXT", "grid", "a", False),
        ("b.c.txt", "grid", "b.c", False),
        ("take.MID", "midi", "take", True),
        ("take.flac", "sound", "take", True),
        ("taps.csv", "hits", "taps", True),
        ("rota.feel.json", "feel", "rota", False),
        (".grid.txt", "grid", ".grid.txt", False),
        ("notes.pdf", None, "notes", False),
    ],
)
def test_a_file_is_known_by_the_longest_ending_that_fits(name: str, row: str | None, plain: str, heard: bool) -> None:
    found = format_of(Path(name))
    assert (found.name if found else None) == row
    assert plain_name(Path(name)) == plain and is_listenable(Path(name)) is heard


def test_no_ending_is_of_two_formats_and_every_row_that_is_written_or_read_has_its_file() -> None:
    endings = [ending for row in FORMATS for ending in row.endings]
    assert len(endings) == len(set(endings)) and all(set(r.written) <= set(r.endings) for r in FORMATS)
    for row in FORMATS:
        if row.written or row.read_as_groove:
            module = formats._of(row)
            assert hasattr(module, "write") is bool(row.written)
            assert hasattr(module, "read") is row.read_as_groove


def test_what_cannot_be_opened_or_written_is_told_with_what_can(document: Document, tmp_path: Path) -> None:
    with pytest.raises(InputError, match=r"take\.wav is a recording: listen"):
        opened(tmp_path / "take.wav", KEYS)
    with pytest.raises(InputError, match=r"a project \(\.ghoststep\), a text grid \(\.grid\.txt\) or a MIDI file"):
        opened(tmp_path / "taps.csv", KEYS)
    with pytest.raises(InputError, match=r"out\.wav: write a project .* or a MIDI file \(\.mid\)"):
        written(tmp_path / "out.wav", document, Output(KEYS), ("project", "grid", "midi"))


def test_a_new_way_out_is_one_file_and_one_row(
    monkeypatch: pytest.MonkeyPatch, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    made = ModuleType("ghoststep.work.formats.tally")

    def write(path: Path, document: Document, output: Output) -> tuple[str, ...]:
        path.write_text(str(len(document.groove.pattern.hits)))
        return (f"{path.name} written, a tally",)

    made.write = write  # type: ignore[attr-defined]
    monkeypatch.setitem(sys.modules, made.__name__, made)
    row = Format("tally", "a tally", "Tallies", Holds.HITS, (".tally",), (".tally",))
    monkeypatch.setattr(formats, "FORMATS", (*FORMATS, row))
    (tmp_path / "a.grid.txt").write_text(GRID)
    out = tmp_path / "a.tally"
    assert main(["edit", str(tmp_path / "a.grid.txt"), "--do", "velocity +1 on snare", "-o", str(out)]) == 0
    assert out.read_text() == "10" and "a.tally written, a tally" in capsys.readouterr().out
    assert row.filter == "Tallies (*.tally)" and format_of(out) is row


def test_a_text_grid_keeps_the_name_it_says(tmp_path: Path) -> None:
    lanes = "snare ----X-------X---\n"
    named, plain = tmp_path / "again.grid.txt", tmp_path / "depot.grid.txt"
    named.write_text(f'name "song"\n{lanes}', encoding="utf-8")
    plain.write_text(lanes, encoding="utf-8")
    opened_ones = [open_document(file, general_midi_keys()) for file in (named, plain)]
    assert [(d.name, d.groove.name) for d in opened_ones] == [("song", "song"), ("depot", "depot")]
