"""Sampled kits: each word of SFZ with a sound that proves it, what is not understood, bad files, folders of sounds."""

from pathlib import Path

import numpy as np
import pytest
import soundfile

from ghoststep.cli.main import main
from ghoststep.files.sfz.folder import Named, named, read_folder
from ghoststep.files.sfz.kit import read_sfz
from ghoststep.music.errors import InputError
from ghoststep.sound.sampled.sampled_kit import SampledKit
from ghoststep.work.kits import KITS, kit_named

RATE = 44100
SNARE = "<region> sample=long.wav key=38"


def tone(hz: float, seconds: float, channels: int = 1) -> np.ndarray:
    time_s = np.arange(round(seconds * RATE)) / RATE
    return np.repeat(0.5 * np.sin(2 * np.pi * hz * time_s)[:, None], channels, axis=1)


@pytest.fixture
def folder(tmp_path: Path) -> Path:
    soundfile.write(tmp_path / "long.wav", tone(1000, 0.5), RATE, subtype="FLOAT")
    soundfile.write(tmp_path / "other.wav", tone(3000, 0.5), RATE, subtype="FLOAT")
    sides = np.stack([tone(1000, 0.5)[:, 0], 0.5 * tone(1000, 0.5)[:, 0]], axis=1)
    soundfile.write(tmp_path / "Sides.wav", sides, RATE, subtype="FLOAT")
    noise = np.random.default_rng(1).uniform(-0.5, 0.5, (RATE // 2, 1))
    soundfile.write(tmp_path / "noise.wav", noise, RATE, subtype="FLOAT")
    return tmp_path


def kit_of(folder: Path, text: str) -> SampledKit:
    (folder / "kit.sfz").write_text(text)
    return read_sfz(folder / "kit.sfz").kit(RATE)


def blow(kit: SampledKit, velocity: int = 127, seed: int = 0, voice: str = "snare") -> np.ndarray:
    return kit.blow(voice, velocity, np.random.default_rng(seed))


def pitch(sound: np.ndarray) -> float:
    power = np.abs(np.fft.rfft(sound[:, 0], 1 << 17))
    return float(np.argmax(power) * RATE / (1 << 17))


def level(sound: np.ndarray, start_s: float = 0.1, end_s: float = 0.2) -> float:
    part = sound[round(start_s * RATE) : round(end_s * RATE)]
    return float(20 * np.log10(np.sqrt((part**2).mean()) + 1e-9))


def bright(sound: np.ndarray) -> float:
    power = np.abs(np.fft.rfft(sound[:, 0])) ** 2
    return float((power * np.fft.rfftfreq(len(sound), 1 / RATE)).sum() / power.sum())


LOUD = level(np.repeat(tone(1000, 0.5), 2, axis=1))
NOISE = "<region> sample=noise.wav key=38 "


@pytest.mark.parametrize(
    ("words", "figure", "wanted"),
    [
        ("volume=-6", level, LOUD - 6), ("gain=3", level, LOUD + 3), ("amplitude=50", level, LOUD - 6.02),
        ("tune=1200", pitch, 2000), ("transpose=-12", pitch, 500), ("pitch_keycenter=26", pitch, 2000),
        ("pitch_keycenter=c#1 pitch_keytrack=50", pitch, 1000 * 2 ** (6.5 / 12)),
        ("tune=90000", pitch, 16000), ("offset=11025", len, 11025), ("end=9999", len, 10000),
        ("ampeg_delay=0.25", lambda s: level(s, 0.0, 0.2), -180), ("ampeg_hold=0.05 ampeg_decay=0.5 ampeg_sustain=0",
         lambda s: level(s, 0.3, 0.31) - level(s, 0.1, 0.11), -36), ("ampeg_attack=0.4", lambda s: level(s, 0.19, 0.21),
         LOUD - 6), ("ampeg_decay=0.02 ampeg_sustain=25", level, LOUD - 12.04),
        ("fil_type=lpf_1p cutoff=1000", level, LOUD - 3.01), ("fil_type=hpf_2p cutoff=1000", level, LOUD - 3.01),
        ("cutoff=1000 resonance=6", level, LOUD + 3), ("fil_type=brf_2p cutoff=1000", level, -90),
        ("fil_type=bpf_2p cutoff=4000", level, LOUD - 9.2), ("fil2_type=lpf_1p cutoff2=1000", level, LOUD - 3.01),
        ("fil_type=lpf_1p cutoff=250 fil_veltrack=2400", level, LOUD - 3.01),
        ("fil_type=lpf_1p cutoff=500 fil_keytrack=100 fil_keycenter=26", level, LOUD - 3.01),
        ("pan=100", lambda s: level(s[:, :1]), -180), ("pan=-100", lambda s: level(s[:, 1:]), -180),
        ("sample=Sides.wav width=0", lambda s: level(s[:, :1]) - level(s[:, 1:]), 0),
        ("sample=sides.wav", lambda s: level(s[:, :1]) - level(s[:, 1:]), 6.02),
        ("sample=Sides.wav width=-100", lambda s: level(s[:, :1]) - level(s[:, 1:]), -6.02),
    ],
)  # fmt: skip
def test_each_word_does_what_it_says(folder: Path, words: str, figure: object, wanted: float) -> None:
    found = figure(blow(kit_of(folder, f"{SNARE} {words}")))  # type: ignore[operator]
    assert found == pytest.approx(wanted, abs=1.0, rel=2e-3) or (wanted < -80 and found < -80)


@pytest.mark.parametrize(
    ("words", "wanted"),
    [
        ("", 40 * np.log10(64 / 127)), ("amp_veltrack=0", 0.0),
        ("amp_veltrack=50", 20 * np.log10(0.5 + 0.5 * (64 / 127) ** 2)),
        ("amp_velcurve_64=0.25", -12.04), ("xfin_lovel=1 xfin_hivel=127 amp_veltrack=0", -3.01),
        ("xfout_lovel=1 xfout_hivel=127 amp_veltrack=0 xf_velcurve=gain", -6.02 - 0),
    ],
)  # fmt: skip
def test_velocity_makes_the_level(folder: Path, words: str, wanted: float) -> None:
    kit = kit_of(folder, f"{SNARE} {words}")
    full = level(blow(kit)) if "xfout" not in words else LOUD
    assert level(blow(kit, 64)) - full == pytest.approx(wanted, abs=0.15)


@pytest.mark.parametrize(
    ("text", "low", "high"),
    [
        (f"{SNARE} hivel=63\n<region> sample=other.wav key=38 lovel=64", 1000, 3000),
        ("<group> key=d2 <region> sample=long.wav hivel=63 <region> sample=other.wav lovel=64", 1000, 3000),
        (f"#define $NAME other\n{SNARE} hivel=63 // low\n/* a\nremark */<region> sample=$NAME.wav key=38 lovel=64",
         1000, 3000),
        ("<global>key=38 hivel=10<master>hivel=63<group>sample=long.wav<region><master>lovel=64 hivel=127 "
         "sample=other.wav<region>", 1000, 3000),
        ("<control> default_path=./ note_offset=12 <region> sample=long.wav key=26", 1000, 1000),
        ("<control> octave_offset=-1 <region> sample=other.wav lokey=50 hikey=50 pitch_keycenter=50", 3000, 3000),
    ],
)  # fmt: skip
def test_layers_and_levels_of_headers(folder: Path, text: str, low: float, high: float) -> None:
    kit = kit_of(folder, text)
    assert pitch(blow(kit, 40)) == pytest.approx(low, rel=1e-3)
    assert pitch(blow(kit, 100)) == pytest.approx(high, rel=1e-3)


@pytest.mark.parametrize("words", [("lorand=0 hirand=0.5", "lorand=0.5 hirand=1"),
                                   ("seq_length=2 seq_position=1", "seq_length=2 seq_position=2")])  # fmt: skip
def test_rounds_come_in_turn_and_by_dice(folder: Path, words: tuple[str, str]) -> None:
    one, two = words
    kit = kit_of(folder, f"{SNARE} {one}\n<region> sample=other.wav key=38 {two}")
    found = [round(pitch(blow(kit, seed=n)) / 1000) for n in range(24)]
    assert set(found) == {1, 3} and 6 <= found.count(1) <= 18


def test_dice_make_equal_blows_differ_and_the_same_dice_do_not(folder: Path) -> None:
    plain = kit_of(folder, SNARE)
    assert np.array_equal(blow(plain, seed=1), blow(plain, seed=2))
    for words in ("pitch_random=30", "amp_random=3", "offset_random=500", "fil_type=lpf_1p cutoff=900 fil_random=600"):
        kit = kit_of(folder, f"{SNARE} {words}")
        blows = [blow(kit, seed=n) for n in range(12)]
        assert len({(len(b), round(float(np.abs(b[:2000]).sum()), 3)) for b in blows}) >= 3, words
        assert np.array_equal(blow(kit, seed=3), blows[3])


def test_the_pedal_chooses_and_groups_choke(folder: Path) -> None:
    text = (
        "<region> sample=long.wav key=42 locc4=100 group=1\n<region> sample=noise.wav key=42 hicc4=99 group=1\n"
        "<region> sample=other.wav key=49 group=2 off_by=3\n<region> sample=long.wav key=57 group=3"
    )
    kit = kit_of(folder, text)
    assert pitch(blow(kit, voice="hat_closed")) == pytest.approx(1000, rel=1e-3)
    assert "crash_left" in kit.chokes["crash"] and "hat_pedal" in kit.chokes["hat_open"]
    assert "crash" in kit.missing or kit.blow("crash", 90, np.random.default_rng(1)).any()


def test_what_is_not_understood_is_listed_and_the_rest_plays(folder: Path) -> None:
    (folder / "broken.wav").write_bytes(b"RIFF no sound at all")
    (folder / "kit.sfz").write_text(
        f"{SNARE} wobble=3 fil_type=comb cutoff=x\n<region> sample=gone.wav key=36\n<region> sample=*sine key=36\n"
        "<region> sample=../../etc/passwd key=40\n<region> sample=broken.wav key=37\n<effect> reverb=1\n"
        "<region> sample=long.wav key=38 trigger=release loop_mode=loop_continuous"
    )
    found = read_sfz(folder / "kit.sfz")
    told = "\n".join(found.trouble)
    for part in ("'wobble'", "'comb'", "'x' is no number", "gone.wav is not there", "*sine", "leads outside",
                 "broken.wav", "<effect>", "release", "loop_continuous"):  # fmt: skip
        assert part in told, part
    assert len(found.regions) == 1 and blow(found.kit(RATE)).any()
    assert main(["kits", str(folder / "kit.sfz")]) == 0


@pytest.mark.parametrize(
    ("text", "why"),
    [
        ("// nothing", "no region"), ("<region> key=38", "no sample"), ("sample=long.wav", "before the first header"),
        ('#include "kit.sfz"\n', "includes itself"), ('#include "gone.sfz"', "not there"),
        ('#include "../out.sfz"', "outside"), ("\0\0\0", "not text"),
    ],
)  # fmt: skip
def test_bad_kits_are_refused_in_words(folder: Path, text: str, why: str) -> None:
    (folder / "kit.sfz").write_text(text)
    with pytest.raises(InputError, match=why):
        read_sfz(folder / "kit.sfz")
    with pytest.raises(InputError, match="There is no kit"):
        kit_named("no such kit")


def test_includes_are_followed(folder: Path) -> None:
    (folder / "parts").mkdir()
    (folder / "parts" / "snare.sfz").write_text("<region> sample=$S.wav key=38\n")
    kit = kit_of(folder, '#define $S other\n#include "parts/snare.sfz"\n')
    assert pitch(blow(kit)) == pytest.approx(3000, rel=1e-3)


def test_a_sample_that_goes_while_it_plays_is_silent(folder: Path) -> None:
    kit = kit_of(folder, SNARE)
    (folder / "long.wav").unlink()
    assert not blow(kit).any()


@pytest.mark.parametrize(
    ("stem", "found"),
    [
        ("Kick", Named("kick", "plain", 0, 0, 0)), ("SN_v3_rr2", Named("snare", "plain", 3, 2, 0)),
        ("closed-hat 04", Named("hat_closed", "plain", 0, 0, 4)), ("HH Open soft", Named("hat_open", "plain", 1, 0, 0)),
        ("Tom2 hard", Named("tom_mid", "plain", 5, 0, 0)), ("FloorTom-1", Named("tom_floor", "plain", 0, 0, 1)),
        ("snare rimshot 2", Named("snare", "rim", 0, 0, 2)), ("SideStick", Named("cross_stick", "plain", 0, 0, 0)),
        ("ride bell ff", Named("ride_bell", "plain", 6, 0, 0)), ("strings", None),
    ],
)  # fmt: skip
def test_names_of_files_tell_voice_layer_and_round(stem: str, found: Named | None) -> None:
    assert named(stem) == found


def test_a_folder_of_sounds_is_a_kit(folder: Path, capsys: pytest.CaptureFixture[str]) -> None:
    sounds = folder / "sounds"
    (sounds / "Kick").mkdir(parents=True)
    for n, gain in enumerate((0.1, 0.4, 0.9)):
        soundfile.write(sounds / f"snare {n + 1}.wav", gain * tone(500 * (n + 1), 0.3), RATE)
        soundfile.write(sounds / "Kick" / f"{n + 1}.wav", 0.8 * tone(60 + n, 0.3), 48000)
    soundfile.write(sounds / "hat closed.flac", tone(8000, 0.1, 2), RATE)
    soundfile.write(sounds / "song.wav", tone(8000, 0.1), RATE)
    (sounds / "crash.wav").write_bytes(b"nothing")
    kit = read_folder(sounds).kit(RATE)
    assert [round(pitch(blow(kit, v)), -1) for v in (20, 64, 120)] == [500, 1000, 1500]  # as loud as they are: layers
    assert len({round(pitch(blow(kit, 100, n, "kick")), 1) for n in range(20)}) >= 3  # equally loud: rounds
    levels = [level(blow(kit, v, voice="hat_closed"), 0, 0.08) for v in range(10, 128, 9)]
    assert levels == sorted(levels)
    out = folder / "out.wav"
    (folder / "a.grid.txt").write_text("tempo 120\nsnare X---X---X---X---\n")
    assert main(["render", str(folder / "a.grid.txt"), str(out), "--kit", str(sounds)]) == 0
    told = capsys.readouterr().out
    assert "song.wav names no voice" in told and "crash.wav" in told and soundfile.info(out).frames > RATE
    (folder / "parts").mkdir()
    with pytest.raises(InputError, match="no sounds whose names"):
        read_folder(folder / "parts")


def test_a_map_beside_the_kit_says_which_key_a_stroke_has(folder: Path) -> None:
    (folder / "kit.kit.json").write_text('{"keys": {"snare/rim": 99, "kick": "c3"}, "levels_db": {"kick": -6}}')
    kit = kit_of(folder, f"{SNARE}\n<region> sample=other.wav key=99\n<region> sample=long.wav key=48")
    assert pitch(kit.blow("snare", 100, np.random.default_rng(0), "rim")) == pytest.approx(3000, rel=1e-3)
    assert level(blow(kit, voice="kick")) == pytest.approx(LOUD - 6, abs=0.1)
    for text in ("[]", '{"keys": {"harp": 3}}', '{"keys": {"snare/loud": 3}}', '{"more": 1}', "{"):
        (folder / "kit.kit.json").write_text(text)
        with pytest.raises(InputError):
            read_sfz(folder / "kit.sfz")


@pytest.mark.parametrize("name", [row.name for row in KITS])
def test_level_and_brightness_rise_with_every_velocity_and_no_two_blows_are_alike(name: str) -> None:
    from ghoststep.music.kit import VOICES, strokes_of

    kit = kit_named(name).kit
    for voice in VOICES:
        for stroke in strokes_of(voice.name):
            sounds = [kit.blow(voice.name, v, np.random.default_rng(5), stroke.name) for v in range(8, 128, 17)]
            levels = [level(s, 0, 0.15) for s in sounds]
            assert levels == sorted(levels) and len(set(levels)) == len(levels), (voice.name, stroke.name)
            assert bright(sounds[-1]) > bright(sounds[1]) * 0.999, (voice.name, stroke.name)
        equal = [kit.blow(voice.name, 90, np.random.default_rng(n)) for n in range(10)]
        assert len({hash(b.tobytes()) for b in equal}) == 10, voice.name
