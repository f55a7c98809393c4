import json
import threading

import numpy as np
import pytest
from tests.listen.scoring import f_measure, placed

from ghoststep.files.demo import demo_recordings
from ghoststep.files.keymap import general_midi_keys
from ghoststep.listen.bars.reading import Hints
from ghoststep.listen.signal.loudness import levels_db
from ghoststep.listen.signal.onsets import candidates_s, nearest_attack_s
from ghoststep.listen.signal.patches import PATCH_SIZE, patches, raw_patches
from ghoststep.listen.signal.spectrum import LISTEN_RATE, band_matrix, bands_at, magnitudes_in_parts
from ghoststep.listen.strokes import hearing
from ghoststep.listen.strokes import network as voicenet
from ghoststep.listen.strokes.closing import closings_s
from ghoststep.listen.strokes.hearing import listen
from ghoststep.music.errors import Cancelled, InputError
from ghoststep.music.kit import HEARD_VOICES
from ghoststep.sound.sketch import sketch_kit
from ghoststep.work.grooves import analysis_of, hear_file

RNG = np.random.default_rng(5)


def clip(
    *, gap_s: float = 0.25, voices: tuple[str, ...] = ("kick", "hat_closed", "snare", "hat_closed"), rate: int = 44100
):
    """Eight strokes of the built-in kit, alone."""
    kit = sketch_kit(rate)
    out = np.zeros(round(rate * gap_s * 9), np.float32)
    truth = []
    for i in range(8):
        at = (i + 0.5) * gap_s
        blow = kit.mono_blow(voices[i % len(voices)], 100, np.random.default_rng(i))[: round(rate * gap_s)]
        out[round(at * rate) : round(at * rate) + len(blow)] += blow
        truth.append({"time_s": at, "voice": voices[i % len(voices)]})
    return out, truth


@pytest.mark.parametrize("recording", demo_recordings(), ids=lambda p: p.stem)
def test_the_demo_is_heard_as_it_was_played(recording) -> None:
    document = hear_file(recording, general_midi_keys(), Hints())
    truth = json.loads(recording.with_suffix(".json").read_text())
    heard = document.listening
    assert heard is not None
    content = analysis_of(document)
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


def test_what_has_not_begun_is_not_begun_once_it_is_stopped(monkeypatch: pytest.MonkeyPatch) -> None:
    begun: list[int] = []
    stopped = threading.Event()
    one = hearing._block_candidates

    def counted(sound: np.ndarray, start: int) -> hearing.Candidates:
        begun.append(start)
        if start:  # so that a busy machine makes no difference
            stopped.wait(30)
        return one(sound, start)

    def stop(share: float) -> None:
        if share > 0.1:
            stopped.set()
            raise Cancelled("stopped")

    monkeypatch.setattr(hearing, "_BLOCK_S", 1.0)
    monkeypatch.setattr(hearing, "_block_candidates", counted)
    with pytest.raises(Cancelled):
        listen(np.tile(clip()[0], 6), 44100, progress=stop)
    assert begun[0] == 0 and len(begun) <= 4


def test_two_threads_hear_what_one_does(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(hearing, "_BLOCK_S", 3.0)
    sound = np.tile(clip()[0], 3)
    both = listen(sound, 44100)
    monkeypatch.setattr(hearing, "_THREADS", 1)
    alone = listen(sound, 44100)
    assert np.array_equal(both.moments_s, alone.moments_s)
    assert np.array_equal(both.heard.group_odds, alone.heard.group_odds)


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


def test_a_sound_too_short_to_look_around_in_keeps_its_moment() -> None:
    click = np.zeros((400, 1), np.float32)
    click[200:] = 0.5 * RNG.standard_normal((200, 1))
    assert nearest_attack_s(click[:270], 44100, 0.003) == 0.003
    assert nearest_attack_s(click, 44100, 0.003) == pytest.approx(200 / 44100, abs=0.001)


def test_a_sine_of_amplitude_1_reads_1() -> None:
    t = np.arange(4096) / LISTEN_RATE
    bin_hz = 20 * LISTEN_RATE / 1024
    sine = np.sin(2 * np.pi * bin_hz * t).astype(np.float32)
    spectra = np.concatenate(list(magnitudes_in_parts(sine, np.full(300, 2048), 1024)))
    assert spectra.shape == (300, 513) and spectra[:, 20] == pytest.approx(np.ones(300), abs=1e-3)


def test_bands_at_moments_are_in_their_places_and_silent_outside_the_sound() -> None:
    sound = np.zeros(60000, np.float32)
    sound[30000:31000] = 0.5 * RNG.standard_normal(1000)
    matrix = band_matrix(1024, 60, 20, 18000)
    centres = np.array([[30500, -4000], [100, 30500], [90000, 30500]] * 60)
    found = bands_at(sound, centres, 1024, matrix)
    assert found.shape == (180, 2, 60)
    loud = found.max(axis=2) > 1
    assert np.array_equal(loud, centres == 30500) and np.ptp(found[loud], axis=0).max() < 1e-5


def test_every_band_averages_something() -> None:
    for n_fft, bands, low, high in ((1024, 60, 20, 18000), (1024, 48, 30, 18000), (4096, 24, 25, 450)):
        matrix = band_matrix(n_fft, bands, low, high)
        assert np.allclose(matrix.sum(axis=0), 1) and (matrix >= 0).all()


def test_patches_have_one_shape_and_no_moment_is_out_of_reach() -> None:
    sound, _ = clip()
    moments = np.array([0.0, 0.5, len(sound) / 44100 - 0.001])
    found = patches(raw_patches(sound, moments), moments, levels_db(sound, moments))
    assert found.shape == (3, PATCH_SIZE) and np.isfinite(found).all() and found.min() >= 0 and found.max() <= 3
    none = np.zeros(0)
    assert patches(raw_patches(sound, none), none, levels_db(sound, none)).shape == (0, PATCH_SIZE)


def test_a_long_sound_is_heard_in_pieces_as_in_one(monkeypatch: pytest.MonkeyPatch) -> None:
    sound = np.tile(clip()[0], 4)
    whole = listen(sound, 44100).performance
    monkeypatch.setattr(hearing, "_BLOCK_S", 3.1)
    pieces = listen(sound, 44100).performance
    assert abs(len(whole) - len(pieces)) <= 2  # a doubtful one may fall to either side
    alike = [np.abs(whole.onset_s[whole.voice == v] - t).min(initial=1.0) < 0.003
             for t, v in zip(pieces.onset_s, pieces.voice, strict=True)]  # fmt: skip
    assert sum(alike) >= len(pieces) - 2


def test_an_open_hat_ends_where_it_is_closed() -> None:
    kit = sketch_kit(LISTEN_RATE)
    ring = kit.mono_blow("hat_open", 100, np.random.default_rng(1))
    out = np.zeros(3 * LISTEN_RATE, np.float32)
    choked = ring[: round(0.35 * LISTEN_RATE)].copy()
    choked[-600:] *= np.linspace(1, 0, 600)
    out[LISTEN_RATE // 2 : LISTEN_RATE // 2 + len(choked)] += choked  # closed by the foot after 0.35 s
    out[2 * LISTEN_RATE : 2 * LISTEN_RATE + len(ring)] += ring[: len(out) - 2 * LISTEN_RATE]
    found = closings_s(out, np.array([0.5, 2.0]), np.array([0.5, 2.0, 2.5]))
    assert found[0] == pytest.approx(0.85, abs=0.04) and found[1] == pytest.approx(2.5)
    assert np.isnan(closings_s(out, np.array([2.0]), np.array([2.0]))).all()


# -- the network --------------------------------------------------------------------------------------------------


def test_each_candidate_is_judged_in_the_light_of_all_and_stretches_hardly_show() -> None:
    rng = np.random.default_rng(1)
    x = rng.uniform(0, 2, (700, PATCH_SIZE)).astype(np.float32)
    moments, levels = np.sort(rng.uniform(0, 60, 700)), np.zeros((700, 5))
    found = voicenet.hear(x, moments, levels)
    assert found.voice_odds.shape == (700, len(HEARD_VOICES)) and found.group_odds.shape == (700, 5)
    assert all(
        np.isfinite(getattr(found, f)).all() for f in ("voice_odds", "velocity", "late_s", "grace_odds", "lead_s")
    )
    shuffled = x.copy()
    shuffled[350:360] = 0
    other = voicenet.hear(shuffled, moments, levels)
    assert not np.allclose(found.group_odds[340:350], other.group_odds[340:350])
    barred = voicenet.hear_in_bars(found, moments / 2.0)
    assert not np.allclose(found.group_odds, barred.group_odds)
    stretches = voicenet._stretches(700)
    kept = [i for a, _, keep in stretches for i in range(a + keep.start, a + keep.stop)]
    assert kept == list(range(700)) and voicenet._stretches(200) == [(0, 200, slice(0, 200))]


def test_only_the_distance_in_time_counts() -> None:
    rng = np.random.default_rng(2)
    x = rng.uniform(0, 2, (60, PATCH_SIZE)).astype(np.float32)
    moments, levels = np.sort(rng.uniform(0, 8, 60)), np.zeros((60, 5))
    now, later = voicenet.hear(x, moments, levels), voicenet.hear(x, moments + 321.0, levels)
    assert np.allclose(now.group_odds, later.group_odds, atol=1e-2)
