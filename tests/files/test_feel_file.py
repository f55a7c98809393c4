"""Feels as files and as lines of a text grid: what is written is read again, what is broken is refused."""

from dataclasses import replace
from pathlib import Path

import msgspec
import pytest
from hypothesis import given
from hypothesis import strategies as st
from tests.strategies import feels, swings
from tools.make_feels import FEELS, feel_of, file_name

from ghoststep.files import feels as shelf_files
from ghoststep.files.feel_file import feel_bytes, parse_feel, read_feel, write_feel
from ghoststep.files.project import load_project, save_project
from ghoststep.files.textgrid import parse_grid
from ghoststep.files.textgrid_out import grid_text
from ghoststep.music.errors import InputError
from ghoststep.music.feel import Feel
from ghoststep.music.kit import VOICE_NAMES
from ghoststep.music.player import Spacing, SpotFeel, Touch, Wander
from ghoststep.music.touch import Role
from ghoststep.session.document.document import Document

voices = st.sampled_from(VOICE_NAMES)
levels = st.tuples(*[st.one_of(st.just(0.0), st.floats(1, 127))] * 3)
spots = st.builds(
    SpotFeel, voices, st.sampled_from((80640, 60480, 70560)), st.integers(0, 59), st.floats(-90, 90), levels
)
wanders = st.builds(
    Wander, st.floats(0, 2), st.floats(0, 1), st.floats(0, 2), st.floats(0, 3), st.floats(0, 30), st.floats(0, 5),
    st.floats(-10, 10), st.integers(1, 64),
)  # fmt: skip
touches = st.builds(
    Touch,
    st.dictionaries(st.tuples(voices, st.sampled_from(list(Role))), st.floats(1, 127), max_size=4).map(
        lambda d: tuple((n, r, v) for (n, r), v in d.items())
    ),
    st.floats(0, 1.5), st.floats(0.3, 1.5), st.floats(0.3, 1.5), st.sampled_from("RL"),
)  # fmt: skip
players = st.builds(
    replace,
    feels,
    swings=st.dictionaries(voices, swings, max_size=2),
    spots=st.lists(spots, max_size=5, unique_by=lambda s: (s.voice, s.bar_ticks, s.at_ticks)).map(tuple),
    wander=wanders,
    touch=touches,
    spacing=st.builds(Spacing, st.floats(0, 120), st.floats(0, 120), st.floats(0, 20)),
    seed=st.integers(0, 2**31 - 1),
    frozen=st.booleans(),
    own_share=st.floats(0, 2),
    another_every=st.integers(0, 64),
    steady=st.lists(voices, max_size=2, unique=True).map(tuple),
)


def close(one: Feel, other: Feel) -> bool:
    return msgspec.json.decode(feel_bytes(one, "")) == msgspec.json.decode(feel_bytes(other, ""))


@given(players)
def test_a_feel_is_read_as_it_was_written(feel: Feel) -> None:
    back, name, about = parse_feel(feel_bytes(feel, "Mill", "by the river"), "x")
    assert (name, about) == ("Mill", "by the river") and close(back, feel)
    assert back == replace(feel, take=1, balance_db={})  # whose takes and balance they are is the groove's affair


@given(players)
def test_a_text_grid_and_a_project_hold_all_of_it(feel: Feel) -> None:
    groove = parse_grid("snare ----X-------X---").changed(feel=feel)
    assert parse_grid(grid_text(groove)).feel == feel


def test_a_project_keeps_a_player(tmp_path: Path) -> None:
    groove = parse_grid("snare ----X-------X---").changed(feel=feel_of(FEELS[1]))
    save_project(tmp_path / "a.ghoststep", Document("a", groove))
    assert load_project(tmp_path / "a.ghoststep").groove.feel == groove.feel


@pytest.mark.parametrize(
    ("change", "words"),
    [
        ({"format": "else"}, "is no feel"),
        ({"version": 2}, "newer version"),
        ({"loose_ms": 60}, "outside 0 to 50"),
        ({"swing": {"unit": 5, "ratio": 0.5}}, "not on 5"),
        ({"lean_ms": {"gong": 3}}, "gong"),
        ({"more": 1}, "unknown field"),
        ({"player": {"spots": [{"voice": "snare", "bar_quarters": "4", "at_quarters": "4"}]}}, "outside its bar"),
        ({"player": {"spots": [{"voice": "snare", "bar_quarters": "x", "at_quarters": "1"}]}}, "number of quarters"),
        ({"player": {"spots": [{"voice": "snare", "bar_quarters": "4", "at_quarters": "1/0"}]}}, "number of quarters"),
        ({"player": {"spots": [{"voice": "snare", "bar_quarters": "4", "at_quarters": "1/11"}]}}, "whole tick"),
        ({"player": {"touch": {"velocity": {"snare": {"ghost": 200}}}}}, "outside"),
        ({"player": {"seed": -1}}, "seed"),
    ],
)
def test_what_is_no_feel_is_refused_in_a_sentence(change: dict[str, object], words: str) -> None:
    content = msgspec.json.decode(feel_bytes(feel_of(FEELS[0]), "a")) | change
    with pytest.raises(InputError, match=words):
        parse_feel(msgspec.json.encode(content), "mill.feel.json")


def test_a_file_that_is_empty_or_cut_is_refused(tmp_path: Path) -> None:
    path = tmp_path / "a.feel.json"
    path.write_text("")
    with pytest.raises(InputError, match="empty"):
        read_feel(path)
    path.write_bytes(b'{"format": "\xff"}')
    with pytest.raises(InputError, match="no feel that can be read"):
        read_feel(path)
    path.write_bytes(feel_bytes(Feel(), "a")[:60])
    with pytest.raises(InputError, match="no feel that can be read"):
        read_feel(path)


def test_the_feels_that_ship_are_those_that_are_made(tmp_path: Path) -> None:
    for made, shipped in zip(FEELS, shelf_files.shelf()[0], strict=True):
        write_feel(tmp_path / file_name(made.name), feel_of(made), made.name, made.about)
        assert (tmp_path / file_name(made.name)).read_bytes() == shipped.path.read_bytes()
        assert shipped.name == made.name and not shipped.own


def test_the_shelf_takes_feels_and_passes_over_broken_ones(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(shelf_files, "settings_folder", lambda: tmp_path)
    path = shelf_files.put_on_shelf(Feel(lean_ms={"snare": 8}), "Mill bridge", "from a take")
    (shelf_files.own_folder() / "broken.feel.json").write_text("{")
    found, troubles = shelf_files.shelf()
    assert found[-1].own and found[-1].name == "Mill bridge" and found[-1].path == path
    assert len(troubles) == 1 and "broken.feel.json" in troubles[0]
    assert shelf_files.feel_named("mill").feel.lean_of("snare") == 8
    for name, words in (("", "is no feel"), ("L%", "could be several"), ("zz", "Tight studio")):
        with pytest.raises(InputError, match=words):
            shelf_files.feel_named(name)
    for name, words in (("mill bridge", "already"), ("??", "needs a name")):
        with pytest.raises(InputError, match=words):
            shelf_files.put_on_shelf(Feel(), name)


@pytest.mark.parametrize(
    ("line", "words"),
    [
        ("swing gong 16 0.6", "no swing"), ("spot snare", "says nothing"),
        ("spot snare 4 of 4 late 3", "outside its bar"),
        ("spot snare 1/0 of 4", "number of quarters"), ("spot snare 1 of 4 loud 3", "'loud' says nothing"),
        ("spot snare 1/11 of 4", "between two ticks"), ("wander speed 3", "'speed' is no figure"),
        ("wander exponent 9", "outside 0 to 2"), ("touch snare loud 3", "no role"), ("touch deep 3", "'deep'"),
        ("touch hand X", "no hand"), ("frozen maybe", "on or off"), ("frozen on every 99", "0 to 64"),
        ("own 9", "0 to 2"), ("seed x", "no seed"),
    ],
)  # fmt: skip
def test_lines_of_a_player_that_mean_nothing_are_refused(line: str, words: str) -> None:
    with pytest.raises(InputError, match=f"line 1: .*{words}"):
        parse_grid(f"{line}\nsnare ----X-------X---")
