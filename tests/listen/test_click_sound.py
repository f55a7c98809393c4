"""A click that sounds in the recording is found, taken out, and is what leans are told against."""

from pathlib import Path

import numpy as np
import pytest
import soundfile

from ghoststep.cli.main import main
from ghoststep.feel.perform import perform
from ghoststep.files.textgrid import parse_grid
from ghoststep.listen.bars.reading import Click, Hints
from ghoststep.listen.signal.click_sound import found_click, without_click
from ghoststep.listen.strokes.hearing import prepared
from ghoststep.listen.way import hear_groove
from ghoststep.listen.words import lean_words
from ghoststep.music.errors import InputError
from ghoststep.music.kit import VOICES
from ghoststep.sound.render import render
from ghoststep.sound.sketch import sketch_kit

RATE, BPM = 44100, 96
BEATS = "tempo 96\nhat_closed {}\nsnare {}\nkick {}\n".format(
    *(" | ".join([bar] * 4) for bar in ("x-x-x-x-x-x-x-x-", "----X--o-o--X---", "X------x--X-----"))
)


def drums(text: str = BEATS) -> np.ndarray:
    out = render(perform(parse_grid(text)), sketch_kit(RATE)).mean(axis=1)
    return np.concatenate([np.zeros(RATE // 2), out]).astype(np.float32)


def clicked(
    sound: np.ndarray, *, late_s: float, pace_s: float = 60 / BPM, accents: int = 4, loud: float = 0.4
) -> np.ndarray:
    """With a click from the first one that fits on, `late_s` after the drums' beats, each bar's first higher."""
    out, t = sound.copy(), np.arange(int(0.03 * RATE)) / RATE
    for n, at_s in enumerate(np.arange(0.5 + late_s, len(sound) / RATE - 0.05, pace_s)):
        hz = 2100 if accents and n % accents == 0 else 1500
        at = round(at_s * RATE)
        out[at : at + len(t)] += loud * np.abs(sound).max() * np.sin(2 * np.pi * hz * t) * np.exp(-t / 0.006)
    return out


@pytest.fixture(scope="module")
def played() -> np.ndarray:
    return drums()


@pytest.mark.parametrize(("per_beat", "accents"), [(1, 4), (1, 0), (2, 0), (2, 8)])
def test_its_pace_and_its_place_are_found(played: np.ndarray, per_beat: int, accents: int) -> None:
    pace_s = 60 / BPM / per_beat
    found = found_click(prepared(clicked(played, late_s=0.012, pace_s=pace_s, accents=accents), RATE))
    assert found is not None and found.bpm == pytest.approx(60 / pace_s, abs=0.01)
    off_s = (found.at_s - 0.512 + pace_s / 2) % pace_s - pace_s / 2
    assert abs(off_s) < 0.0006


def test_what_is_taken_out_is_the_click(played: np.ndarray) -> None:
    sound = prepared(clicked(played, late_s=0.012), RATE)
    own = played * (np.abs(sound).max() / np.abs(clicked(played, late_s=0.012)).max())
    found = found_click(sound)
    assert found is not None
    left, before = ((x - own) ** 2 for x in (without_click(sound, found), sound))
    assert left.sum() < 0.35 * before.sum()


def test_early_against_it_comes_out_and_it_is_no_stroke(played: np.ndarray) -> None:
    sound = clicked(played, late_s=0.015)
    hearing, found = hear_groove(sound[:, None], RATE)
    assert lean_words(found).startswith("all ") and lean_words(found).endswith("ms early against the click")
    assert np.mean(list(found.groove.feel.lean_ms.values())) == pytest.approx(-15, abs=2.5)
    assert found.click is not None and found.click.bpm == pytest.approx(BPM, abs=0.01)
    assert any("A click sounds in the recording, 96 a minute" in r for r in hearing.remarks)
    assert found.readings[0].why == "the click gives the tempo"  # nobody said so
    assert {h.voice for h in found.groove.pattern.hits} <= {"kick", "snare", "hat_closed"}


@pytest.mark.parametrize(("accents", "late_s"), [(4, -0.02), (4, 0.03), (0, -0.02), (0, 0.0), (0, 0.03)])
def test_what_stays_behind_of_it_is_no_snare_and_backbeats_at_it_are_told(
    played: np.ndarray, accents: int, late_s: float
) -> None:
    hearing, _ = hear_groove(clicked(played, late_s=late_s, accents=accents)[:, None], RATE)
    told = hearing.performance
    names = [VOICES[v].name for v in told.voice]
    snares_s = told.onset_s[[name == "snare" for name in names]]
    steps = (snares_s - 0.5) / (15 / BPM)
    assert set(np.rint(steps).astype(int) % 16) <= {4, 7, 9, 12} and np.abs(steps - np.rint(steps)).max() < 0.2
    assert len(snares_s) >= 12 and "cross_stick" not in names


def test_a_click_that_is_counted_in_and_runs_on_is_taken_out_wholly(played: np.ndarray) -> None:
    bar = np.zeros(round(240 / BPM * RATE), np.float32)
    taken = np.concatenate([bar, played, bar])
    sound = clicked(taken, late_s=0.012, accents=0)
    found = found_click(sound)
    assert found is not None
    left = without_click(sound, found)
    for silent in (slice(None, len(bar)), slice(-round(0.8 * len(bar)), None)):
        assert np.square(left[silent]).sum() < 1e-4 * np.square(sound[silent]).sum()
    hearing, _ = hear_groove(sound[:, None], RATE)
    first, last = np.array([0.5, 0.5 + 4 * 240 / BPM]) + 240 / BPM
    assert ((hearing.performance.onset_s > first - 0.03) & (hearing.performance.onset_s < last)).all()


@pytest.mark.parametrize(("count_in", "one_sample"), [(0, False), (4, False), (4, True)])
def test_dry_strokes_with_a_click_stay(count_in: int, one_sample: bool) -> None:
    pace, rng = round(60 / BPM * RATE), np.random.default_rng(8)
    dry, noise = np.zeros(24 * pace, np.float32), rng.standard_normal((24, 1800))
    for number, at in enumerate(range(count_in * pace, len(dry), pace)):
        dry[at : at + 1800] = 0.03 * noise[0 if one_sample else number] * np.exp(-np.arange(1800) / 500)
    sound = clicked(dry, late_s=-0.5, accents=0, loud=1.0)
    found = found_click(sound)
    assert found is not None
    left = without_click(sound, found)
    assert np.square(left - dry).sum() < 0.1 * np.square(sound - dry).sum()
    assert np.square(left).sum() > 0.8 * np.square(dry).sum()


def paused(sound: np.ndarray, sounds: str, late_s: float = 0.012) -> np.ndarray:
    """With four clicks a bar in the bars that have an x, the first bar of drums being the first bar."""
    out, t = sound.copy(), np.arange(int(0.03 * RATE)) / RATE
    for bar, letter in enumerate(sounds):
        for beat in range(4 if letter == "x" else 0):
            at = round((0.5 + late_s + (4 * bar + beat) * 60 / BPM) * RATE)
            if at + len(t) < len(out):
                out[at : at + len(t)] += 0.4 * np.abs(sound).max() * np.sin(2 * np.pi * 1500 * t) * np.exp(-t / 0.006)
    return out


@pytest.fixture(scope="module")
def eight() -> np.ndarray:
    head, *lanes = BEATS.splitlines()
    return drums("\n".join([head, *(f"{lane} | {lane.split(' ', 1)[1]}" for lane in lanes)]))


@pytest.mark.parametrize("sounds", ["x-x-x-x-", "xx--xx--", "x---x---"])
def test_bars_of_click_and_of_silence_are_one_click(eight: np.ndarray, sounds: str) -> None:
    sound = paused(eight, sounds)
    click = found_click(prepared(sound, RATE))
    hearing, found = hear_groove(sound[:, None], RATE)
    assert click is not None and click.bpm == pytest.approx(BPM, abs=0.05)
    assert any("A click sounds in the recording, 96 a minute" in r for r in hearing.remarks)
    assert len(click.runs_s) == sounds.count("x-")
    names = {h.voice for h in found.groove.pattern.hits}
    assert "cross_stick" not in names and names <= {"kick", "snare", "hat_closed"}
    steps = [h.position_ticks // 5040 % 16 for h in found.groove.pattern.hits if h.voice == "snare" and h.velocity > 60]
    assert set(steps) <= {4, 12}


def test_a_count_in_that_stops_is_a_click_too(played: np.ndarray) -> None:
    bar = np.zeros(round(240 / BPM * RATE), np.float32)
    sound = paused(np.concatenate([bar, played]), "x", late_s=0.0)
    click = found_click(prepared(sound, RATE))
    hearing, found = hear_groove(sound[:, None], RATE)
    assert click is not None and len(click.runs_s) == 1
    assert {h.voice for h in found.groove.pattern.hits} <= {"kick", "snare", "hat_closed"}
    assert (hearing.performance.onset_s > 0.45 + 240 / BPM).all()


def test_a_click_alone_is_no_drums() -> None:
    silence = np.zeros(8 * RATE, np.float32)
    silence[1000] = 1e-7
    alone = clicked(silence, late_s=0.1, accents=0, loud=4e6)
    noisy = alone + 1e-5 * np.random.default_rng(2).standard_normal(len(alone)).astype(np.float32)
    for sound in (alone, noisy):
        with pytest.raises(InputError, match="Nothing but a click sounds in this recording"):
            hear_groove(sound[:, None], RATE)


def test_a_click_that_is_given_goes_before_one_that_sounds(played: np.ndarray) -> None:
    hearing, found = hear_groove(clicked(played, late_s=0.015)[:, None], RATE, Hints(click=Click(BPM, 0.5)))
    assert found.click == Click(BPM, 0.5) and any("against the one you gave" in r for r in hearing.remarks)


@pytest.mark.parametrize("voice", ["cross_stick", "hat_closed", "ride_bell", "splash", "tom_high"])
def test_strokes_at_strict_distances_are_no_click(voice: str) -> None:
    beats = " | ".join(["x---x---x---x---"] * 5)
    assert found_click(prepared(drums(f"tempo 104\n{voice} {beats}\n"), RATE)) is None


def test_who_does_not_keep_to_it_is_told_so() -> None:
    dragging = drums(BEATS.replace("96", "91"))
    hearing, found = hear_groove(clicked(dragging, late_s=0.0)[:, None], RATE)
    assert found.click is None and any("do not keep to it" in r for r in hearing.remarks)


def test_a_tapped_beat_is_a_click(tmp_path: Path, played: np.ndarray, capsys: pytest.CaptureFixture[str]) -> None:
    dice = np.random.default_rng(5)
    beats = 0.512 + 60 / BPM * np.delete(np.arange(16), [5, 9])  # two were missed
    found = Click.of_taps((beats + dice.normal(0, 0.01, 14)).tolist())
    assert found.bpm == pytest.approx(BPM, abs=0.3) and found.at_s == pytest.approx(0.512, abs=0.01)
    taps, wav = tmp_path / "taps.csv", tmp_path / "yard.wav"
    taps.write_text("".join(f"{t:.4f},kick\n" for t in beats))
    soundfile.write(wav, played, RATE)
    assert main(["listen", str(wav), "--click", str(taps)]) == 0
    assert "against the click" in capsys.readouterr().out


def test_a_track_of_the_click_is_no_drum_and_tells_the_beat(
    tmp_path: Path, played: np.ndarray, capsys: pytest.CaptureFixture[str]
) -> None:
    soundfile.write(tmp_path / "drums.wav", played, RATE)
    soundfile.write(tmp_path / "click.wav", clicked(played, late_s=0.015) - played, RATE)
    assert main(["listen", *(str(tmp_path / name) for name in ("drums.wav", "click.wav"))]) == 0
    out = capsys.readouterr().out
    assert "ms early against the click" in out and "click.wav as click" in out


@pytest.mark.parametrize("times", [[], [1.0, 2.0, 3.0], [1.0, 1.0, 1.0, 1.0], [0.0, 0.1, 1.0, 1.3, 2.9, 3.0]])
def test_taps_that_tell_no_beat_are_refused(times: list[float]) -> None:
    with pytest.raises(InputError, match="tap"):
        Click.of_taps(times)
