"""Several tracks of one performance are listened to together, and each helps the others."""

from pathlib import Path

import numpy as np
import pytest
import soundfile

from ghoststep.cli.main import main
from ghoststep.feel.perform import perform
from ghoststep.files.textgrid import parse_grid
from ghoststep.listen.entries.tracks import Track, as_long, listen_together, mixed
from ghoststep.listen.strokes.hearing import listen
from ghoststep.music.errors import InputError
from ghoststep.music.kit import VOICE_INDEX
from ghoststep.sound.render import render
from ghoststep.sound.sketch import sketch_kit

RATE = 44100
BLEED = 0.02
GRID = """
tempo 100
hat_closed xxxxxxxxxxxxxxxx | xxxxxxxxxxxxxxxx
snare      ----X--o-o--X--o | ----X--o-o--X--o
kick       X------x--X----- | X------x--X-----
"""
GROUPS = {"kick": ("kick",), "snare": ("snare",), "hat": ("hat_closed",)}


@pytest.fixture(scope="module")
def tracks() -> dict[str, np.ndarray]:
    """A microphone for each drum of a quiet take in which ghosts of velocity 20 lie under hats, with some bleed."""
    groove = parse_grid(GRID)
    soft = tuple(h if h.velocity > 40 else _softer(h) for h in groove.pattern.hits)
    played = perform(groove.changed(hits=soft))
    kit = sketch_kit(RATE)
    alone = {n: render(played, kit, lead_s=0.2, voices=v, length_s=5.5).mean(axis=1) for n, v in GROUPS.items()}
    everything = np.sum(list(alone.values()), axis=0)
    near = {n: (x + BLEED * (everything - x)).astype(np.float32) for n, x in alone.items()}
    # The track over the kit hears the hats best, so that ghosts drown in the mix.
    over = (0.5 * everything + 2.0 * alone["hat"]).astype(np.float32)
    return {"kick": near["kick"], "snare": near["snare"], "over": over}


def _softer(hit):  # type: ignore[no-untyped-def]
    from dataclasses import replace

    return replace(hit, velocity=20)


def found(performance, voice_name: str) -> np.ndarray:  # type: ignore[no-untyped-def]
    return performance.onset_s[performance.voice == VOICE_INDEX[voice_name]]


def true_s(voice_name: str, *, ghosts: bool = False) -> np.ndarray:
    played = perform(parse_grid(GRID))
    mine = played.voice == VOICE_INDEX[voice_name]
    if ghosts:
        mine &= played.velocity < 40
    return played.onset_s[mine] + 0.2


def share(heard: np.ndarray, meant: np.ndarray) -> float:
    return float(np.mean([len(heard) and np.abs(heard - t).min() < 0.03 for t in meant]))


def test_ghosts_that_drown_in_the_mix_are_heard_by_their_own_track(tracks: dict[str, np.ndarray]) -> None:
    files = [Track(f"{name}.wav", sound, RATE) for name, sound in tracks.items()]
    mix, rate = mixed(files)
    alone, together = listen(mix, rate), listen_together(files)
    ghosts = true_s("snare", ghosts=True)
    assert share(found(together.performance, "snare"), ghosts) > share(found(alone.performance, "snare"), ghosts)
    assert share(found(together.performance, "snare"), true_s("snare")) >= 0.9
    assert share(found(together.performance, "kick"), true_s("kick")) == 1
    assert len(found(together.performance, "kick")) == len(true_s("kick"))
    assert len(found(together.performance, "snare")) <= len(true_s("snare")) + 1


@pytest.mark.parametrize(
    ("name", "group"),
    [
        ("01_Kick in.wav", "kick"), ("BD.wav", "kick"), ("snare-bottom.flac", "snare"), ("Hi-Hat.wav", "hat"),
        ("floor tom.wav", "toms"), ("ride.wav", "cymbals"), ("over.wav", None), ("room 2.wav", None),
        ("kickstart.wav", None),
    ],
)  # fmt: skip
def test_names_of_tracks_are_hints(name: str, group: str | None) -> None:
    assert Track(name, np.zeros(10, np.float32), RATE).group == group


def test_tracks_of_other_lengths_or_rates_are_refused() -> None:
    one = Track("kick.wav", np.zeros(RATE, np.float32), RATE)
    with pytest.raises(InputError, match=r"snare.wav lasts 3.00 s and kick.wav 1.00 s"):
        mixed([one, Track("snare.wav", np.zeros(3 * RATE, np.float32), RATE)])
    longer = as_long([one, Track("snare.wav", np.ones((RATE + 99, 2), np.float32), RATE)])
    assert [len(t.samples) for t in longer] == [RATE + 99] * 2 and len(mixed(longer)[0]) == RATE + 99
    with pytest.raises(InputError, match="48000 Hz"):
        mixed([one, Track("snare.wav", np.zeros(48000, np.float32), 48000)])


def test_a_silent_track_or_one_heap_of_levels_says_nothing(tracks: dict[str, np.ndarray]) -> None:
    over = Track("over.wav", tracks["over"], RATE)
    silent = Track("tom.wav", np.zeros_like(tracks["over"]), RATE)
    noise = 0.01 * np.random.default_rng(0).standard_normal(len(tracks["over"])).astype(np.float32)
    heard = listen_together([over, silent, Track("ride.wav", noise, RATE)])
    assert not len(found(heard.performance, "tom_mid"))
    assert len(found(heard.performance, "ride")) <= 1


def test_the_command_listens_to_tracks_together(
    tracks: dict[str, np.ndarray], tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    files = []
    for name, sound in tracks.items():
        files.append(tmp_path / f"yard-{name}.wav")
        soundfile.write(files[-1], sound, RATE)
    assert main(["listen", *map(str, files), "--grid", str(tmp_path / "out.grid.txt")]) == 0
    out = capsys.readouterr().out
    assert out.startswith("yard: 100.0 BPM, 4/4") and "3 tracks were listened to together" in out
    assert (tmp_path / "out.grid.txt").exists()
    assert main(["listen", *map(str, files), "--json", str(files[0])]) == 2
    assert main(["listen", str(files[0]), str(tmp_path / "out.grid.txt")]) == 2
    assert "is no sound file" in capsys.readouterr().err
    assert main(["listen", *map(str, files), "--mouth"]) == 2
