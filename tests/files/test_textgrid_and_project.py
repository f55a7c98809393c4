import io
import json
import os
import subprocess
import sys
import zipfile
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from tests.strategies import documents, whole_grooves

from ghoststep.files.demo import demo_recordings
from ghoststep.files.keymap import general_midi_keys
from ghoststep.files.project import load_project, save_project
from ghoststep.files.textgrid import parse_grid, read_grid
from ghoststep.files.textgrid_out import grid_text, write_grid
from ghoststep.listen.bars.explain import Hints
from ghoststep.music.errors import InputError
from ghoststep.music.groove import Groove
from ghoststep.music.pattern import Hit, Pattern
from ghoststep.music.touch import Role
from ghoststep.session.document.document import Document
from ghoststep.work.grooves import hear_file, plain_name
from ghoststep.work.opening import open_document

KEYS = general_midi_keys()


def test_the_example_reads_as_it_says(grid_text: str) -> None:
    groove = parse_grid(grid_text)
    pattern = groove.pattern
    assert (groove.tempo.main_bpm, str(pattern.meter), pattern.bars, pattern.grid) == (96, "4/4", 2, 16)
    snare = [(h.position_ticks // 5040, h.velocity, h.role) for h in pattern.hits if h.voice == "snare"][:3]
    assert snare == [(4, 108, Role.ACCENT), (7, 32, Role.GHOST), (9, 32, Role.GHOST)]


cells = st.text("Xxo-.", min_size=7, max_size=7)


@given(st.lists(cells, min_size=1, max_size=5), st.lists(cells, min_size=1, max_size=5))
def test_what_is_written_reads_the_same(snare: list[str], kick: list[str]) -> None:
    text = f"tempo 131.5\nmeter 7/8 3+2+2\ngrid 8\nsnare {'|'.join(snare)}\nkick/24 {' | '.join(k * 3 for k in kick)}\n"
    groove = parse_grid(text)
    back = parse_grid(grid_text(groove))
    assert back.pattern.hits == groove.pattern.hits and back.tempo == groove.tempo
    assert back.pattern.meter == groove.pattern.meter


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("", "no lane"),
        ("kick X--", "lane kick, bar 1 has 3 steps, but a bar of 4/4 has 16"),
        ("gong x", "line 1: 'gong'"),
        ("tempo 9999\nkick x", "line 1: A tempo"),
        ("tempo fast", "'fast' is not a tempo: write it like"),
        ("grid 13", "does not fit"),
        ("grid x", "not a grid"),
        ("\n\nkick x---x---x---x--? ", "line 3: lane kick, bar 1, step 16: '\\?'"),
        ("meter 9", "not a meter"),
        ("kick x---x---x---x--- | x---", "bar 2 has 4 steps"),
        ("kick x---x---x---x---\nkick x---x---x---x---", "second time"),
        ("kick x---x---x---x---\ntempo 90", "before the first lane"),
        ("meter 7/8\nkick/12 x", "whole steps"),
    ],
)
def test_errors_name_line_lane_and_bar(text: str, words: str) -> None:
    with pytest.raises(InputError, match=words):
        parse_grid(text, "x.grid.txt")


@given(whole_grooves)
@settings(max_examples=60, deadline=None)
def test_a_grid_says_everything_a_groove_holds(groove: Groove) -> None:
    hits = tuple(replace(h, origin=None) for h in groove.pattern.hits)
    bare = groove.changed(hits=hits)
    assert parse_grid(grid_text(bare)) == bare


def test_odd_hits_are_lines_of_their_own(tmp_path: Path) -> None:
    hits = (
        Hit(0, "kick", 77, Role.NORMAL, offset_ms=4.0),
        Hit(2520, "kick", 32, Role.GHOST),
        Hit(0, "snare", 40, Role.GHOST, grace=True),
    )
    groove = parse_grid("kick X---x---X---x---").changed(pattern=Pattern(hits))
    write_grid(tmp_path / "a.grid.txt", groove)
    assert "hit snare bar 1 1 velocity 40 grace" in (tmp_path / "a.grid.txt").read_text()
    assert read_grid(tmp_path / "a.grid.txt") == groove
    (tmp_path / "b.grid.txt").write_bytes(b"kick \xff\xfe")
    with pytest.raises(InputError, match="UTF-8"):
        read_grid(tmp_path / "b.grid.txt")


# -- projects ---------------------------------------------------------------------------------------------------


@given(documents)
@settings(max_examples=50, deadline=None)
def test_a_project_comes_back_whole(tmp_path_factory: pytest.TempPathFactory, document: Document) -> None:
    path = tmp_path_factory.mktemp("p") / "a.ghoststep"
    save_project(path, document)
    assert load_project(path) == document


@pytest.fixture(scope="module")
def heard() -> Document:
    return hear_file(demo_recordings()[0], KEYS, Hints())


def test_recording_and_listening_come_back(tmp_path: Path, heard: Document) -> None:
    path = tmp_path / "a.ghoststep"
    save_project(path, heard)
    back = load_project(path)
    assert back.groove == heard.groove and back.recording.data == heard.recording.data
    assert np.array_equal(back.recording.samples, heard.recording.samples)
    assert (
        back.listening.explained == heard.listening.explained
        and back.listening.confidence == heard.listening.confidence
    )


def rebuilt(path: Path, change) -> Path:
    """The project with its project.json changed by a function of the decoded JSON."""
    with zipfile.ZipFile(path) as archive:
        parts = {name: archive.read(name) for name in archive.namelist()}
    content = change(json.loads(parts["project.json"]))
    parts["project.json"] = content if isinstance(content, bytes) else json.dumps(content).encode()
    out = path.with_name("changed.ghoststep")
    with zipfile.ZipFile(out, "w") as archive:
        for name, data in parts.items():
            archive.writestr(name, data)
    return out


def with_hit(**fields: object):
    def change(content: dict) -> dict:
        content["groove"]["hits"][0].update(fields)
        return content

    return change


def in_groove(**fields: object):
    return lambda content: {**content, "groove": {**content["groove"], **fields}}


def in_listening(**fields: object):
    return lambda content: {**content, "listening": {**content["listening"], **fields}}


@pytest.mark.parametrize(
    ("change", "words"),
    [
        (lambda c: {**c, "version": 99}, "newer version"),
        (lambda c: {**c, "version": "x"}, "damaged"),
        (lambda c: b"{", "damaged"),
        (lambda c: b"\xff\xfe", "damaged"),
        (lambda c: [], "damaged"),
        (lambda c: {**c, "extra": 1}, "damaged"),
        (lambda c: {k: v for k, v in c.items() if k != "groove"}, "damaged"),
        (with_hit(velocity=0), "velocity"),
        (with_hit(voice="gong"), "gong"),
        (with_hit(at=-5), "A hit at -5 ticks"),
        (with_hit(at=10**12), "outside what a pattern can hold"),
        (lambda c: {**c, "recording": "sounds/gone.wav"}, "missing"),
        (with_hit(key=-1), "which is none"),
        (with_hit(offset_ms=1e300), "outside"),
        (with_hit(length_ticks=10**15), "lasts"),
        (in_groove(grid=0), "grid of 0"),
        (in_groove(bars=10**9), "bars"),
        (in_groove(tempo=[[0, 1e300]]), "BPM"),
        (in_groove(ramps=[[77, 120.0]]), "where no groove is"),
        (in_groove(meters=[[0, 4, 4, [1, 1, 1, 1]]]), "stand in order"),
        (in_groove(lane_passages=[[0, 10**15, 16, ["gong"]]]), "gong"),
        (in_groove(loose_ms=-1.0), "damaged"),
        (in_groove(levels=[["kick", "ghost", 120]]), "have to rise"),
        (in_groove(swing=[16, 5.0]), "damaged"),
        (in_listening(confidence=[0.5]), "hits were heard"),
        (in_listening(source=[10**9]), "hits were heard"),
        (in_listening(start_s=1e300), "outside what a recording can hold"),
        (in_listening(loose_ms={"gong": 1.0}), "gong"),
        (in_listening(closed_s=[[1e300, 2.0]]), "outside what a recording can hold"),
        (lambda c: {**c, "next_key": 5}, "next key"),
    ],
)
def test_damaged_and_newer_projects_are_said(tmp_path: Path, heard: Document, change, words: str) -> None:
    path = tmp_path / "a.ghoststep"
    save_project(path, heard)
    with pytest.raises(InputError, match=words):
        load_project(rebuilt(path, change))


def test_fuzzed_projects_are_read_or_refused(tmp_path: Path, grid_text: str) -> None:
    path = tmp_path / "a.ghoststep"
    save_project(path, Document("x", parse_grid(grid_text)))
    good = path.read_bytes()
    rng = np.random.default_rng(1)
    refused = 0
    for _ in range(300):
        data = bytearray(good)
        for at in rng.integers(0, len(data), int(rng.integers(1, 6))):
            data[at] = int(rng.integers(256))
        path.write_bytes(bytes(data[: int(rng.integers(len(data)))] if rng.random() < 0.3 else data))
        try:
            load_project(path)
        except InputError:
            refused += 1
    assert refused > 150


def test_a_bomb_is_not_unpacked(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("ghoststep.files.project._MAX_JSON", 1000)
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr("project.json", b" " * 100_000)
    path = tmp_path / "a.ghoststep"
    path.write_bytes(out.getvalue())
    with pytest.raises(InputError, match="too large"):
        load_project(path)


KILLED = """
import os, sys, threading, time
from pathlib import Path
from ghoststep.files.project import load_project, save_project
path = Path(sys.argv[1])
document = load_project(path)
print("ready", flush=True)
while True:
    save_project(path, document)
"""


def test_killed_again_and_again_while_saving_the_project_stays_whole(tmp_path: Path, grid_text: str) -> None:
    path = tmp_path / "a.ghoststep"
    document = Document("x", parse_grid(grid_text))
    save_project(path, document)
    for after_s in (0.0, 0.002, 0.005, 0.011):
        process = subprocess.Popen(
            [sys.executable, "-c", KILLED, str(path)], stdout=subprocess.PIPE, env={**os.environ, "PYTHONPATH": "src"}
        )
        assert process.stdout.readline().strip() == b"ready"
        try:
            process.wait(after_s)
        except subprocess.TimeoutExpired:
            process.kill()
        process.wait()
        process.stdout.close()
        assert load_project(path) == document


def test_files_open_by_what_they_are(tmp_path: Path, grid_text: str) -> None:
    grid = tmp_path / "night line.grid.txt"
    grid.write_text(grid_text)
    assert open_document(grid, KEYS).name == "night line" == plain_name(grid)
    with pytest.raises(InputError, match="listen to it first"):
        open_document(demo_recordings()[0], KEYS)
    with pytest.raises(InputError, match="no groove"):
        open_document(tmp_path / "x.pdf", KEYS)


def test_a_project_of_version_2_is_read(tmp_path: Path) -> None:
    """What a later version added is missing there: it has its usual value."""
    path = tmp_path / "old.ghoststep"
    save_project(path, Document("old", parse_grid("snare ----X--o-o--X--o")))
    with zipfile.ZipFile(path) as archive:
        row = json.loads(archive.read("project.json"))
    row["version"] = 2
    assert not {"balance_db", "passages", "levels", "cycles", "linear", "ring_over"} & set(row["groove"])
    for name in ("snapshots", "verdicts"):
        del row[name]
    with zipfile.ZipFile(path, "w") as archive:
        archive.writestr("project.json", json.dumps(row))
    old = load_project(path)
    assert (
        old.groove == parse_grid("snare ----X--o-o--X--o")
        and old.snapshots == ()
        and old.groove.pattern.rules.ring_over
    )
    bad = {**row, "groove": {**row["groove"], "levels": [["gong", "ghost", 20]]}}
    with zipfile.ZipFile(path, "w") as archive:
        archive.writestr("project.json", json.dumps(bad))
    with pytest.raises(InputError, match="damaged: 'gong' is no voice"):
        load_project(path)


def test_hits_of_an_old_project_never_share_a_key(tmp_path: Path, heard: Document) -> None:
    """Two hits may come from one stroke (one was copied): the stroke's key goes to the first of them."""
    hits = heard.groove.pattern.hits
    one = next(h for h in hits if h.origin is not None)
    twin = replace(one, position_ticks=one.position_ticks + 60)
    path = tmp_path / "old.ghoststep"
    save_project(path, heard.with_groove(pattern=heard.groove.pattern.with_hits(set(), [twin])))

    def as_it_was(row: dict) -> dict:
        """Of a hit, hit after hit, all but its key."""

        def keyless(groove: dict) -> dict:
            return {**groove, "hits": [{k: v for k, v in h.items() if k != "key"} for h in groove["hits"]]}

        heard_row = {**row["listening"], "groove": keyless(row["listening"]["groove"])}
        return {**row, "version": 3, "groove": keyless(row["groove"]), "listening": heard_row}

    old = load_project(rebuilt(path, as_it_was))
    keys = [h.key for h in old.groove.pattern.hits]
    twins = [h.key for h in old.groove.pattern.hits if h.origin == one.origin]
    assert one.key and len(set(keys)) == len(keys) and one.key in twins
