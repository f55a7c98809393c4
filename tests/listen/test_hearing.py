import json

import numpy as np
import pytest
from tests.listen.scoring import f_measure, placed

from ghoststep.files.analysis import analysis
from ghoststep.files.demo import demo_recordings
from ghoststep.files.grooves import hear_file, onsets_s
from ghoststep.files.keymap import general_midi_keys
from ghoststep.listen.explain import Hints
from ghoststep.listen.hearing import listen
from ghoststep.listen.onsets import candidates_s
from ghoststep.listen.patches import PATCH_SIZE, patches
from ghoststep.listen.spectrum import LISTEN_RATE, band_matrix, magnitudes_at
from ghoststep.music.errors import Cancelled, InputError
from ghoststep.sound.kit import Kit

RNG = np.random.default_rng(5)


def clip(
    *, gap_s: float = 0.25, voices: tuple[str, ...] = ("kick", "hat_closed", "snare", "hat_closed"), rate: int = 44100
):
    """Eight strokes of the built-in kit, alone."""
    kit = Kit(rate=rate)
    out = np.zeros(round(rate * gap_s * 9), np.float32)
    truth = []
    for i in range(8):
        at = (i + 0.5) * gap_s
        blow = kit.blow(voices[i % len(voices)], 100, np.random.default_rng(i))[: round(rate * gap_s)]
        out[round(at * rate) : round(at * rate) + len(blow)] += blow
        truth.append({"time_s": at, "voice": voices[i % len(voices)]})
    return out, truth


@pytest.mark.parametrize("recording", demo_recordings(), ids=lambda p: p.stem)
def test_the_demo_is_heard_as_it_was_played(recording) -> None:
    document = hear_file(recording, general_midi_keys(), Hints())
    truth = json.loads(recording.with_suffix(".json").read_text())
    heard = document.listening
    content = analysis(heard.explained, heard.confidence, onsets_s(document), heard.remarks)
    assert content["tempo_bpm"] == pytest.approx(truth["tempo_bpm"], rel=0.005)
    assert content["meter"] == truth["meter"]
    assert content["downbeat_s"] == pytest.approx(truth["downbeat_s"], abs=0.02)
    assert content["swing"]["unit"] == truth["swing"]["unit"]
    assert content["swing"]["ratio"] == pytest.approx(truth["swing"]["ratio"], abs=0.02)
    assert f_measure(truth["hits"], content["hits"], ("kick", "snare", "hat")) >= 0.80
    assert placed(truth["hits"], content["hits"]) >= 0.75
    assert all(0 <= row["confidence"] <= 1 and 1 <= row["velocity"] <= 127 for row in content["hits"])


@pytest.mark.parametrize("rate", [8000, 22050, 44100, 48000, 96000])
def test_any_rate_is_heard(rate: int) -> None:
    sound, truth = clip(rate=rate, voices=("kick", "snare"))
    found = listen(sound, rate).performance
    assert len(found) >= 7
    assert all(np.abs(found.onset_s - t["time_s"]).min() < 0.01 for t in truth)


def test_stereo_phase_and_offset_do_no_harm() -> None:
    sound, _ = clip()
    plain = listen(sound, 44100).performance
    against = listen(np.stack([sound, -sound], axis=1), 44100).performance
    lifted = listen(sound + 0.2, 44100).performance
    assert len(plain) == len(against) and abs(len(plain) - len(lifted)) <= 1


def test_level_does_not_matter() -> None:
    sound, _ = clip()
    loud, soft = listen(sound, 44100).performance, listen(sound * 0.02, 44100).performance
    assert np.array_equal(loud.voice, soft.voice) and np.allclose(loud.onset_s, soft.onset_s, atol=0.001)


@pytest.mark.parametrize(
    ("sound", "words"),
    [
        (np.zeros(44100, np.float32), "silent"),
        (np.zeros(1, np.float32), "too short"),
        (np.zeros(0, np.float32), "too short"),
        (np.full(44100, 1e-6, np.float32), "silent"),
    ],
)
def test_nothing_to_hear_is_said(sound: np.ndarray, words: str) -> None:
    with pytest.raises(InputError, match=words):
        listen(sound, 44100)


def test_what_is_no_drum_is_refused_or_doubted() -> None:
    tone = (0.3 * np.sin(2 * np.pi * 220 * np.arange(3 * 44100) / 44100) * np.hanning(3 * 44100)).astype(np.float32)
    try:
        assert len(listen(tone, 44100).performance) <= 3
    except InputError as error:
        assert "drum" in str(error)


def test_clipping_is_remarked() -> None:
    sound, _ = clip()
    assert any("clipped" in r for r in listen(np.clip(sound * 20, -1, 1), 44100).remarks)


def test_listening_can_be_stopped() -> None:
    def stop(share: float) -> None:
        if share > 0.3:
            raise Cancelled("stopped")

    with pytest.raises(Cancelled):
        listen(clip()[0], 44100, progress=stop)


def test_candidates_are_within_a_millisecond_of_a_sharp_attack() -> None:
    sound, truth = clip(voices=("cross_stick", "hat_closed"))
    moments = candidates_s(sound)
    assert max(np.abs(moments - t["time_s"]).min() for t in truth) < 0.001


def test_blocks_of_a_long_sound_meet_without_a_seam() -> None:
    sound, _ = clip(gap_s=0.5)
    tile_s = len(sound) / 44100
    found = listen(np.tile(sound, 15), 44100).performance.onset_s
    plain, seam = ((found >= n * tile_s) & (found < (n + 1) * tile_s) for n in (5, round(60 / tile_s) - 1))
    assert plain.sum() >= 8 and np.allclose(found[plain] - 5 * tile_s, found[seam] - 12 * tile_s, atol=0.001)


def test_a_sine_of_amplitude_1_reads_1() -> None:
    t = np.arange(4096) / LISTEN_RATE
    bin_hz = 20 * LISTEN_RATE / 1024
    spectrum = magnitudes_at(np.sin(2 * np.pi * bin_hz * t).astype(np.float32), np.array([2048]), 1024)
    assert float(spectrum[0, 20]) == pytest.approx(1, abs=1e-3)


def test_every_band_averages_something() -> None:
    for n_fft, bands, low, high in ((1024, 60, 20, 18000), (1024, 48, 30, 18000), (4096, 24, 25, 450)):
        matrix = band_matrix(n_fft, bands, low, high)
        assert np.allclose(matrix.sum(axis=0), 1) and (matrix >= 0).all()


def test_patches_have_one_shape_and_no_moment_is_out_of_reach() -> None:
    sound, _ = clip()
    found = patches(sound, np.array([0.0, 0.5, len(sound) / 44100 - 0.001]))
    assert found.shape == (3, PATCH_SIZE) and np.isfinite(found).all()
    assert patches(sound, np.zeros(0)).shape == (0, PATCH_SIZE)
