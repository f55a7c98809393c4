"""Leans against a click that the player heard, and against the player's own pulse where there is none."""

from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest

from ghoststep.cli.main import main
from ghoststep.feel.perform import perform
from ghoststep.files.project import load_project, save_project
from ghoststep.files.textgrid import parse_grid
from ghoststep.listen.bars.explain import explain
from ghoststep.listen.bars.reading import Click, Hints
from ghoststep.listen.words import lean_words
from ghoststep.music.errors import InputError
from ghoststep.music.performance import Performance
from ghoststep.work import corrections
from ghoststep.work.grooves import analysis_of
from ghoststep.work.hits_heard import heard_performance

START_S = 0.5
EARLY_S = 0.015


def against(early_s: float, *, snare_late_s: float = 0.0, bpm: float = 96) -> Performance:
    """Four bars of rock, all so early against a click of 96 that sounds at START_S."""
    lanes = {"hat_closed": "x-x-x-x-x-x-x-x-", "snare": "----X-------X---", "kick": "X-----x-X-------"}
    text = f"tempo {bpm}\n" + "\n".join(f"{name} {' | '.join([bar] * 4)}" for name, bar in lanes.items())
    groove = parse_grid(text)
    groove = groove.changed(feel=replace(groove.feel, lean_ms={"snare": 1000 * snare_late_s}))
    played = perform(groove)
    onset = played.onset_s + START_S - early_s
    return Performance.of(onset, played.voice, played.velocity, length_s=played.length_s + 1)


def test_all_early_against_the_click_comes_out() -> None:
    found = explain(against(EARLY_S), Hints(click=Click(96, START_S)))
    assert found.start_s == pytest.approx(START_S, abs=1e-6) and found.groove.tempo.main_bpm == pytest.approx(96)
    assert set(np.round(list(found.groove.feel.lean_ms.values()), 1)) == {-15.0}
    assert lean_words(found) == "all 15 ms early against the click"


def test_without_a_click_only_what_differs_is_told() -> None:
    found = explain(against(EARLY_S, snare_late_s=0.010))
    assert lean_words(found) == "snare 10 ms late against own pulse"
    clicked = explain(against(EARLY_S, snare_late_s=0.010), Hints(click=Click(96, START_S)))
    assert "snare 5 ms early" in lean_words(clicked) and "hats 15 ms early" in lean_words(clicked)


def test_any_beat_of_the_click_will_do() -> None:
    one, other = (explain(against(EARLY_S), Hints(click=Click(96, at))) for at in (START_S, START_S + 7 * 60 / 96))
    assert one.start_s == pytest.approx(other.start_s, abs=1e-6)


def test_a_player_who_drags_falls_behind_the_click() -> None:
    found = explain(against(0.0, bpm=95.7), Hints(click=Click(96, START_S)))
    late = [h.offset_ms for h in found.groove.pattern.hits]
    assert late[-1] - late[0] == pytest.approx(1000 * 3.875 * 4 * (60 / 95.7 - 60 / 96), abs=8)


def test_on_the_click_is_said() -> None:
    assert lean_words(explain(against(0.0), Hints(click=Click(96, START_S)))) == "everything on the click"


@pytest.mark.parametrize("text", ["96 0.5", "fast@1", "96@soon", "0@1", "96@1e9", "nan@0"])
def test_what_is_no_click_is_refused(text: str) -> None:
    with pytest.raises(InputError):
        Click.parse(text)


def test_a_click_is_a_correction_that_is_kept(tmp_path: Path) -> None:
    document = heard_performance(against(EARLY_S), "yard", Hints())
    words, clicked = corrections.with_click(document, Click.parse(f"96@{START_S}"))
    assert words == "Click of 96 BPM" and analysis_of(document)["pocket_against"] == "own pulse"
    path = tmp_path / "a.ghoststep"
    save_project(path, clicked)
    again = load_project(path)
    assert analysis_of(again)["pocket_against"] == "click"
    assert analysis_of(again)["pocket_ms"] == pytest.approx({"kick": -15, "snare": -15, "hat": -15}, abs=0.1)
    assert again.listening is not None and again.listening.corrections.click == Click(96, START_S)


def test_the_command_takes_a_click(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    table = tmp_path / "hits.csv"
    played = against(EARLY_S)
    from ghoststep.music.kit import VOICES

    rows = [f"{t},{VOICES[v].name},{x}" for t, v, x in zip(played.onset_s, played.voice, played.velocity, strict=True)]
    table.write_text("time_s,voice,velocity\n" + "\n".join(rows))
    assert main(["listen", str(table), "--click", f"96@{START_S}"]) == 0
    assert "all 15 ms early against the click" in capsys.readouterr().out
    assert main(["listen", str(table), "--click", "96@0.5", "--tempo", "96"]) == 2
    assert "--click says the tempo already" in capsys.readouterr().err


def test_a_click_is_taken_over_what_a_midi_file_states(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    from ghoststep.files.keymap import general_midi_keys
    from ghoststep.files.midi_out import write_midi

    groove = parse_grid(
        "tempo 96\nhat_closed x-x-x-x-x-x-x-x- | x-x-x-x-x-x-x-x-\nkick X-------X------- | X-------X-------"
    )
    write_midi(tmp_path / "take.mid", groove, general_midi_keys())
    assert main(["listen", str(tmp_path / "take.mid"), "--click", "96@0.015"]) == 0
    assert "all 15 ms early against the click" in capsys.readouterr().out


@pytest.mark.parametrize("bpm", [93, 94.5, 97.5, 100])
def test_a_click_that_the_hits_run_away_from_is_refused(bpm: float) -> None:
    with pytest.raises(InputError, match="run away"):
        explain(against(0.0), Hints(click=Click(bpm, START_S)))
