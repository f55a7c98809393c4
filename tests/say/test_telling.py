"""A groove told in sentences: what is told is true, and said again gives the groove back."""

import random
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
from bench.parts import by_player, playable
from hypothesis import given, settings
from tests.say.corpus import context_of
from tests.strategies import patterns

from ghoststep.cli.main import main
from ghoststep.files.demo import demo_recordings
from ghoststep.files.keymap import general_midi_keys
from ghoststep.files.textgrid import parse_grid
from ghoststep.listen.bars.reading import Hints
from ghoststep.music.feel import Feel, Swing
from ghoststep.music.groove import Groove
from ghoststep.music.kit import LANE_OF_VOICE, strokes_of
from ghoststep.music.pattern import Hit, Pattern
from ghoststep.session.say.telling import form_told, said_again, strokes_told, told
from ghoststep.session.say.understanding import understood
from ghoststep.work.grooves import hear_file


@pytest.mark.parametrize("name", ["beat", "plain", "waltz", "seven", "shuffle", "toms", "blank"])
def test_it_comes_back(name: str) -> None:
    groove = context_of(name).document.groove
    assert strokes_told(said_again(groove, told(groove))) == strokes_told(groove)


def test_drawn_grooves_come_back_and_so_do_players() -> None:
    rng, dice = random.Random(11), np.random.default_rng(11)
    for k in range(24):
        groove = playable(rng, rng.choice([1, 2, 4, 12]))
        groove = by_player(groove, dice) if k % 4 == 0 else groove
        assert strokes_told(said_again(groove, told(groove))) == strokes_told(groove)


@given(patterns())
@settings(max_examples=25, deadline=None)
def test_whatever_is_struck_in_any_meter_comes_back(pattern: Pattern) -> None:
    """Of strokes at one moment a lane holds one, as a drum does."""
    seen: set[tuple[int, int]] = set()
    hits: list[Hit] = []
    for h in pattern.hits:
        if (h.position_ticks, LANE_OF_VOICE[h.voice]) not in seen:
            seen.add((h.position_ticks, LANE_OF_VOICE[h.voice]))
            stroke = h.stroke if h.stroke in {s.name for s in strokes_of(h.voice)} else "plain"
            hits.append(replace(h, grace=False, stroke=stroke, key=len(hits) + 1))
    groove = Groove(replace(pattern, hits=tuple(hits)))
    assert strokes_told(said_again(groove, told(groove))) == strokes_told(groove)


def test_a_recording_comes_back() -> None:
    groove = hear_file(demo_recordings()[0], general_midi_keys(), Hints()).groove
    assert strokes_told(said_again(groove, told(groove))) == strokes_told(groove)


@pytest.mark.parametrize(
    ("text", "sentence"),
    [
        ("kick X---X---X---X---", "Kick accents on every beat."),
        ("kick --x---x---x---x-", "Kick on every &."),
        ("hat_closed x-x-x-x-x-x-x-x-", "Hat in eighths."),
        ("snare ----x-------x--- | ----x-----------", "Snare on 2; snare on 4 in bar 1."),
        ("snare ----x--o-o--x---", "Snare ghosts on 2a and 3e."),
        ("meter 2/4\nsnare ----x---", "Snare on 2."),
        ("meter 2/2\ngrid 16\nkick ---x------------", "Kick on 1.375."),
        ("tom_low x---------------\ntom_floor ----x-----------", "Floor tom on 2."),
        ("grid 12\nride x-x---------", "Ride on 1 and 1let."),
        ("snare ----X-----------\nhit snare bar 1 2 ornament flam", "Flam on the snare on 2."),
        ("snare ----X-----------\nhit snare bar 1 2 stroke rim", "Rim shot on the snare on 2."),
        ("hat_open ------x---------\nhit hat_open bar 1 2.5 lasts 1/8", "Lasts 1/8: open hat on 2&."),
        ("tempo 90\nsnare ----------------", "Nothing is struck."),
    ],
)
def test_it_is_told_as_one_would_say_it(text: str, sentence: str) -> None:
    groove = parse_grid(text)
    found = told(groove)
    assert sentence in found, found
    assert strokes_told(said_again(groove, found)) == strokes_told(groove)


def test_long_grooves_are_told_by_their_different_bars() -> None:
    bars = ["X-------X-------", "X-----x-X-------"] * 6
    groove = parse_grid(f"kick {' | '.join(bars)}")
    found = told(groove)
    assert any(" like bar" in s for s in found) and len(found) < 12
    assert strokes_told(said_again(groove, found)) == strokes_told(groove)
    assert len(told(groove, {2})) <= 4


def test_swing_and_leans_are_told() -> None:
    groove = parse_grid("snare ----X-------X---\nkick X---------------").changed(
        feel=Feel(Swing(16, 0.57), {"snare": 12.0})
    )
    found = told(groove)
    assert "Sixteenths swung 57 percent." in found and "Snare 12 ms late." in found
    again = said_again(groove, found)
    assert again.feel.swing == groove.feel.swing and again.feel.lean_ms == groove.feel.lean_ms


def test_sentences_are_said_on_the_command_line(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    grid = tmp_path / "a.grid.txt"
    grid.write_text("tempo 100\nkick X-------X------- | X-------X-------\nsnare ----X-------X--- | ----X-------X---\n")
    assert main(["edit", str(grid), "--say", "ghost before the backbeat", "--say", "a bit softer"]) == 0
    out = capsys.readouterr().out
    assert "place snare 1a,3a as ghost" in out and "velocity -5" in out
    assert main(["edit", str(grid), "--say", "kick on 2", "--say", "undo", "--say", "what is there"]) == 0
    out = capsys.readouterr().out
    assert "Taken back" in out and "Kick accents on 1 and 3." in out
    for said, trouble in (("double it", "That may mean"), ("a gong on 3", "'gong'"), ("bar 9 like bar 1", "no bar 9")):
        assert main(["edit", str(grid), "--say", said, "-o", str(tmp_path / "out.mid")]) == 2
        assert trouble in capsys.readouterr().err and not (tmp_path / "out.mid").exists()
    degrees = tmp_path / "degrees.txt"
    degrees.write_text("velocity 1 2 3 4\n")
    assert main(["edit", str(grid), "--say", "snare a bit louder", "--degrees", str(degrees)]) == 0
    assert "velocity +2 on snare" in capsys.readouterr().out


def test_the_form_is_told_and_said() -> None:
    context = context_of("beat")
    for text in ("call bars 1 and 2 the verse", "call bars 3-4 the chorus", "play the verse twice, then the chorus"):
        context = understood(context, text).tried[0].context
    assert form_told(context.document.form) == ["Form: verse, verse, chorus."]
    assert understood(context, "Form: chorus, verse.").tried[0].phrase == "form chorus verse"
    assert not understood(context, "call bars 2-3 the bridge").tried and form_told(None) == []
