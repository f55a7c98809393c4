"""Files that are written are written whole, where they were meant, and by one at a time."""

import errno
import fcntl
import json
import os
import stat
import time
import zipfile
from dataclasses import replace
from pathlib import Path
from typing import BinaryIO

import numpy as np
import pytest
import soundfile

from ghoststep.cli.main import main
from ghoststep.desk.model import memory
from ghoststep.files import project
from ghoststep.files.locks import Busy, lock
from ghoststep.files.places import autosave_folder
from ghoststep.files.project import load_project, save_project
from ghoststep.files.safe import check_outputs, read_bytes, write_together, write_whole
from ghoststep.files.sound import read_recording
from ghoststep.files.textgrid import parse_grid, parse_text
from ghoststep.music.errors import InputError
from ghoststep.session.document.document import Document, Recording


@pytest.fixture
def document(grid_text: str) -> Document:
    return Document("depot", parse_grid(grid_text))


# -- outputs ----------------------------------------------------------------------------------------------------


def test_an_output_is_no_input_and_no_other_output(tmp_path: Path) -> None:
    file, link = tmp_path / "a.wav", tmp_path / "b.wav"
    file.write_bytes(b"x")
    link.symlink_to(file)
    with pytest.raises(InputError, match=r"b\.wav is what is read here"):
        check_outputs([link], [file])
    with pytest.raises(InputError, match="named for two outputs"):
        check_outputs([tmp_path / "c.json", tmp_path / "." / "c.json"], [file])
    check_outputs([None, tmp_path / "c.json", tmp_path / "d.mid"], [file, None])


@pytest.mark.parametrize(
    "words",
    [
        ["listen", "IN.wav", "--json", "IN.wav"],
        ["listen", "IN.wav", "--midi", "IN.wav"],
        ["listen", "IN.wav", "--json", "OUT", "--grid", "OUT"],
        ["perform", "IN.mid", "--midi", "IN.mid"],
        ["render", "IN.grid.txt", "IN.grid.txt"],
    ],
)
def test_no_command_destroys_what_it_reads(
    tmp_path: Path, grid_text: str, capsys: pytest.CaptureFixture[str], words: list[str]
) -> None:
    (tmp_path / "IN.grid.txt").write_text(grid_text)
    soundfile.write(tmp_path / "IN.wav", np.zeros((4410, 1)), 44100)
    assert main(["perform", str(tmp_path / "IN.grid.txt"), "--midi", str(tmp_path / "IN.mid")]) == 0
    before = {p.name: p.read_bytes() for p in tmp_path.glob("IN*")}
    told = [str(tmp_path / w) if w.startswith(("IN", "OUT")) else w for w in words]
    assert main(told) == 2
    assert {p.name: p.read_bytes() for p in tmp_path.glob("IN*")} == before and not (tmp_path / "OUT").exists()
    assert capsys.readouterr().err.startswith("ghost-step: ")


def test_all_are_written_or_none(tmp_path: Path) -> None:
    old, new = tmp_path / "old.json", tmp_path / "gone" / "new.mid"
    old.write_text("old")
    with pytest.raises(InputError, match=r"new\.mid"):
        write_together([(old, lambda f: f.write(b"other")), (new, lambda f: f.write(b"x"))])
    assert old.read_text() == "old" and list(tmp_path.iterdir()) == [old]

    def fails(_file: object) -> None:
        raise InputError("no such sound")

    with pytest.raises(InputError, match="no such sound"):
        write_together([(old, lambda f: f.write(b"other")), (tmp_path / "b", fails)])
    assert old.read_text() == "old" and list(tmp_path.iterdir()) == [old]


# -- what is no usual file --------------------------------------------------------------------------------------


def test_a_link_stays_a_link(tmp_path: Path, document: Document) -> None:
    real, link = tmp_path / "real.ghoststep", tmp_path / "link.ghoststep"
    save_project(real, document)
    link.symlink_to(real)
    save_project(link, replace(document, name="other"))
    assert link.is_symlink() and load_project(real).name == "other"


def test_pipes_and_devices_are_refused(tmp_path: Path) -> None:
    pipe = tmp_path / "pipe.wav"
    os.mkfifo(pipe)
    for path in (pipe, Path("/dev/zero"), Path("/dev/null")):
        with pytest.raises(InputError, match=r"pipe or device|is empty"):
            read_bytes(path, limit_bytes=1000)
    with pytest.raises(InputError, match="pipe or device"):
        write_whole(pipe, lambda f: f.write(b"x"))
    assert stat.S_ISFIFO(pipe.stat().st_mode)
    with pytest.raises(InputError, match="folder"):
        write_whole(tmp_path, lambda f: f.write(b"x"))


def test_a_name_that_is_no_text_opens_and_saves(tmp_path: Path, document: Document) -> None:
    path = Path(os.fsdecode(os.fsencode(tmp_path) + b"/fog\xff\xfe.wav"))
    soundfile.write(str(tmp_path / "fog.wav"), np.zeros((100, 1)), 44100)
    (tmp_path / "fog.wav").rename(path)
    recording = read_recording(path)
    saved = tmp_path / "a.ghoststep"
    save_project(saved, replace(document, recording=recording))
    assert load_project(saved).recording is not None
    odd = Path(os.fsdecode(os.fsencode(tmp_path) + b"/out\xff.ghoststep"))
    save_project(odd, document)
    assert load_project(odd) == document


def test_a_small_project_does_not_unpack_to_gigabytes(
    tmp_path: Path, document: Document, monkeypatch: pytest.MonkeyPatch
) -> None:
    import io

    sound = io.BytesIO()
    soundfile.write(sound, np.zeros((400_000, 1)), 44100, format="FLAC")
    data = sound.getvalue()
    path = tmp_path / "a.ghoststep"
    save_project(path, replace(document, recording=Recording("a.flac", data, np.zeros((1, 1), np.float32), 44100)))
    assert path.stat().st_size < 100_000
    monkeypatch.setattr("ghoststep.files.sound.MAX_DECODED_BYTES", 1_000_000)
    with pytest.raises(InputError, match="too much sound"):
        load_project(path)


def test_only_our_own_parts_of_killed_runs_are_cleared(tmp_path: Path) -> None:
    ours, written = (tmp_path / f".{n}.grid.txt.abcd12_3.ghost-step-part" for n in "ab")
    others = [tmp_path / n for n in (".movie.part", ".x.ghost-step-part", "a.abcd1234.ghost-step-part", ".b.x.part")]
    for part in (ours, written, *others):
        part.write_bytes(b"half")
        os.utime(part, (time.time() - 1e6, time.time() - 1e6))
    with written.open("rb") as file:
        fcntl.flock(file, fcntl.LOCK_EX)
        write_whole(tmp_path / "a", lambda f: f.write(b"x"))
        assert written.exists()
    assert not ours.exists() and all(p.exists() for p in others)


def test_where_the_second_of_two_cannot_take_its_place_the_first_is_as_it_was(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    first, second, new = (tmp_path / n for n in ("a.txt", "b.txt", "c.txt"))
    first.write_text("old a")
    second.write_text("old b")
    replace_file = Path.replace

    def fail(self: Path, target: Path) -> Path:
        if Path(target) == second and self.read_bytes() == b"new b":
            raise OSError(errno.EPERM, "not permitted")
        return replace_file(self, target)

    monkeypatch.setattr(Path, "replace", fail)
    texts = [(first, b"new a"), (new, b"new c"), (second, b"new b")]
    with pytest.raises(InputError, match=r"b\.txt could not be written"):
        write_together([(path, lambda f, text=text: f.write(text)) for path, text in texts])
    assert {p.name: p.read_text() for p in tmp_path.iterdir()} == {"a.txt": "old a", "b.txt": "old b"}


def test_what_is_replaced_keeps_its_attributes_and_what_is_protected_is_not_replaced(tmp_path: Path) -> None:
    path = tmp_path / "a.txt"
    path.write_text("old")
    os.setxattr(path, "user.note", b"mine")
    write_whole(path, lambda f: f.write(b"new"))
    assert os.getxattr(path, "user.note") == b"mine"
    path.chmod(0o444)
    with pytest.raises(InputError, match="protected against writing"):
        write_whole(path, lambda f: f.write(b"newer"))
    assert path.read_text() == "new"


def test_other_names_of_a_replaced_file_are_told(tmp_path: Path, caplog: pytest.LogCaptureFixture) -> None:
    path = tmp_path / "a.txt"
    path.write_text("old")
    os.link(path, tmp_path / "b.txt")
    with caplog.at_level("WARNING"):
        write_whole(path, lambda f: f.write(b"new"))
    assert "other names" in caplog.text and (tmp_path / "b.txt").read_text() == "old"


def test_a_project_is_read_again_before_it_takes_the_old_ones_place(
    tmp_path: Path, document: Document, monkeypatch: pytest.MonkeyPatch
) -> None:
    path = tmp_path / "a.ghoststep"
    save_project(path, document)
    old = path.read_bytes()
    recorded = replace(
        document, recording=Recording("a.wav", bytes(range(256)) * 9, np.zeros((9, 1), np.float32), 44100)
    )
    whole = project.project_writer(recorded)

    def spoilt(file: BinaryIO) -> None:
        whole(file)
        file.flush()
        data = Path(file.name).read_bytes() if isinstance(file.name, str) else os.pread(file.fileno(), 1 << 20, 0)
        at = data.index(bytes(range(100, 140)))
        file.seek(at)
        file.write(b"!")

    monkeypatch.setattr(project, "project_writer", lambda _document: spoilt)
    with pytest.raises(InputError, match="old file was kept"):
        save_project(path, recorded)
    assert path.read_bytes() == old and list(tmp_path.iterdir()) == [path]


def test_a_form_that_cannot_be_read_leaves_the_groove_open_without_it(tmp_path: Path) -> None:
    form, groove = parse_text("part A\nkick X---X---X---X---\nsection s = A x2\n")
    path = tmp_path / "song.ghoststep"
    assert save_project(path, Document("song", groove, form=form)) == ""
    with zipfile.ZipFile(path) as archive:
        row = json.loads(archive.read("project.json"))
    row["song"] = row["song"].replace("section s = A x2", "section s = Q x2")
    with zipfile.ZipFile(path, "w") as archive:
        archive.writestr("project.json", json.dumps(row))
    again = load_project(path)
    assert again.form is None and again.groove.pattern.hits == groove.pattern.hits
    assert "form" in again.warnings[0] and "every hit is there" in again.warnings[0]


def test_odd_paths_are_one_sentence(tmp_path: Path) -> None:
    loop = tmp_path / "loop"
    loop.symlink_to(loop)
    for path, said in ((loop, "round in a circle"), (tmp_path / "a\0b", "what no name can")):
        with pytest.raises(InputError, match=said):
            write_whole(path, lambda f: f.write(b"x"))
        with pytest.raises(InputError):
            read_bytes(path, limit_bytes=9)


# -- one at a time ----------------------------------------------------------------------------------------------


def test_a_lock_is_for_one(tmp_path: Path) -> None:
    held = lock(tmp_path / "a.ghoststep")
    assert held is not None
    with pytest.raises(Busy):
        lock(tmp_path / "a.ghoststep")
    held.release()
    again = lock(tmp_path / "a.ghoststep")
    assert again is not None and not list(tmp_path.glob("*.ghoststep"))
    again.release()
    assert not list(tmp_path.iterdir())


def test_a_lock_holds_under_every_name_of_a_file(tmp_path: Path) -> None:
    path, linked, other = tmp_path / "a.ghoststep", tmp_path / "b.ghoststep", tmp_path / "c" / "a.ghoststep"
    path.write_bytes(b"x")
    other.parent.mkdir()
    linked.symlink_to(path)
    os.link(path, other)
    held = lock(path)
    assert held is not None
    for name in (linked, other):
        with pytest.raises(Busy):
            lock(name)
    held.release()
    again = lock(other)
    assert again is not None
    again.release()


def test_names_alike_in_their_first_letters_have_locks_of_their_own(tmp_path: Path) -> None:
    one, two = lock(tmp_path / ("a" * 200 + "1")), lock(tmp_path / ("a" * 200 + "2"))
    assert one is not None and two is not None
    one.release()
    two.release()


def test_a_lock_left_by_a_killed_program_is_free(tmp_path: Path) -> None:
    (tmp_path / ".a.ghoststep.lock").write_bytes(b"")
    held = lock(tmp_path / "a.ghoststep")
    assert held is not None
    held.release()


def test_copies_are_kept_until_a_newer_one_stands(document: Document) -> None:
    crashed = memory.Copy()
    crashed.keep(document)
    assert memory.leftovers() == []  # its window still lives
    assert crashed._held is not None
    for _, file in crashed._held._taken:  # as when its program is killed
        file.close()
    [found] = memory.leftovers()
    back, held = memory.recovered(found)
    assert back == document and memory.leftovers() == []
    with pytest.raises(InputError, match="Another window"):
        memory.recovered(found)
    mine = memory.Copy()
    mine.recovered_from(found, held)
    assert found.file.exists()
    mine.keep(document)
    assert not found.file.exists() and mine.file.exists()
    mine.forget()
    assert not mine.file.exists() and memory.leftovers() == []


def test_copies_are_the_users_alone_and_have_names_of_their_own(document: Document) -> None:
    one, two = memory.Copy(), memory.Copy()
    one.keep(document)
    two.keep(document)
    assert one.file != two.file
    assert stat.S_IMODE(autosave_folder().stat().st_mode) == 0o700
    assert stat.S_IMODE(one.file.stat().st_mode) == 0o600
    for copy in (one, two):
        copy.forget()


def test_a_copy_given_up_while_it_is_written_goes_too(document: Document) -> None:
    copy = memory.Copy()
    copy._gone = True
    copy.keep(document)
    assert not copy.file.exists()


def test_lanes_that_repeat_have_the_same_numbers_in_files_whatever_lanes_there_are(tmp_path: Path) -> None:
    groove = parse_grid("cycle hat_pedal 3\ncycle kick 5\nhat_pedal x--x--x--x--x--x\nkick x----x----x----x")
    save_project(tmp_path / "a.ghoststep", Document("a", groove))
    with zipfile.ZipFile(tmp_path / "a.ghoststep") as archive:
        assert json.loads(archive.read("project.json"))["groove"]["cycles"] == [[7, 25200], [8, 15120]]
    assert load_project(tmp_path / "a.ghoststep").groove.pattern.rules == groove.pattern.rules


def test_of_several_copies_the_newest_is_offered_first() -> None:
    memory.autosave_folder().mkdir(parents=True)
    files = [memory.autosave_folder() / f"work-{name}.ghoststep" for name in ("a", "b", "c")]
    for file, age_s in zip(files, (50, 5, 500), strict=True):
        save_project(file, Document(file.stem, parse_grid("kick X---X---X---X---")))
        os.utime(file, (1_700_000_000 - age_s, 1_700_000_000 - age_s))
    assert [found.file.stem for found in memory.leftovers()] == ["work-b", "work-a", "work-c"]
