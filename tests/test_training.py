"""The material the listening network learns from is what it says it is (no PyTorch is needed for this)."""

import os
import struct
import subprocess
import sys
from dataclasses import replace
from itertools import pairwise
from pathlib import Path

import numpy as np
import pytest
import soundfile
from tools.training import examples, kits, metal, single_strokes
from tools.training import no_kit as of_no_kit
from tools.training.at_once import at_once
from tools.training.blend import blended
from tools.training.examples import REACH_S, Recipe, clips_of_kit, labelled, make_shard
from tools.training.fit_no_kit import DECAY, UNITS, changed, fitted, loss
from tools.training.freepats import patch_sound
from tools.training.judge import Case, order_allowed
from tools.training.kept_back import make_case, random_groove
from tools.training.material import judged_clip
from tools.training.metal import FAMILIES, other_metal
from tools.training.playing import LENGTH_S, Playing, Strike, few_drums, random_playing
from tools.training.recolour import recoloured

from ghoststep.listen.signal.groups import NET_GROUPS
from ghoststep.listen.signal.patches import BANDS, PARTS, PATCH_SIZE
from ghoststep.listen.strokes.no_kit import outputs
from ghoststep.listen.strokes.own_strokes import OWN_SIZE
from ghoststep.music.kit import HEARD_VOICES, VOICE_INDEX, VOICE_NAMES, VOICES


@pytest.fixture(scope="module")
def kit() -> kits.KitSamples:
    return kits.random_kit(np.random.default_rng(4))


@pytest.fixture(scope="module")
def other_kit() -> kits.KitSamples:
    return kits.random_kit(np.random.default_rng(5))


def test_a_random_kit_has_every_voice_and_louder_layers(kit: kits.KitSamples) -> None:
    assert set(kit) == {v.name for v in HEARD_VOICES}
    for layers in kit.values():
        energy = [float((sound.astype(float) ** 2).sum()) for _, sound in layers]
        assert energy == sorted(energy) and all(np.isfinite(s).all() for _, s in layers)


def test_kits_differ_from_seed_to_seed_and_not_for_one_seed(kit: kits.KitSamples, other_kit: kits.KitSamples) -> None:
    again = kits.random_kit(np.random.default_rng(4))
    assert np.array_equal(again["snare"][0][1], kit["snare"][0][1])
    assert not np.array_equal(other_kit["snare"][0][1][:500], kit["snare"][0][1][:500])


def test_playing_is_the_same_in_every_process() -> None:
    """Sets of names have another order in each process, unless they are sorted."""
    code = (
        "import numpy as np; from tools.training.playing import few_drums, random_playing\n"
        "for seed in range(12): r = np.random.default_rng(seed); p = random_playing(r); print(p, few_drums(p, r))"
    )
    root = Path(__file__).parents[1]
    told = []
    for chance in ("1", "2"):
        env = {**os.environ, "PYTHONHASHSEED": chance, "PYTHONPATH": f"{root}/src:{root}"}
        run = subprocess.run([sys.executable, "-c", code], env=env, check=True, capture_output=True, text=True)
        told.append(run.stdout)
    assert told[0] == told[1] and len(told[0]) > 1000


@pytest.mark.parametrize("seed", range(8))
def test_playing_is_in_order_and_in_range(seed: int) -> None:
    playing = random_playing(np.random.default_rng(seed))
    times = [s.time_s for s in playing.strikes]
    assert times == sorted(times) and all(0 <= t < LENGTH_S for t in times)
    assert all(1 <= s.velocity <= 127 and s.voice in VOICE_NAMES for s in playing.strikes)
    assert all(0.01 < lead < s.time_s for s in playing.strikes for lead in s.grace_leads_s)


def test_most_playing_repeats_itself_bar_by_bar() -> None:
    alike = []
    for seed in range(30):
        playing = random_playing(np.random.default_rng(seed))
        if not playing.steady:
            continue
        spots = {(round((s.time_s - playing.start_s) / playing.bar_s * 48), s.voice) for s in playing.strikes}
        two_bars = {(at - 96, voice) for at, voice in spots if at >= 96}
        if two_bars:
            alike.append(len(two_bars & spots) / len(two_bars))
    assert np.mean(alike) > 0.45


def test_labels_stand_at_the_candidates_of_their_strikes(kit: kits.KitSamples) -> None:
    strikes = [Strike(0.5 + 0.4 * i, v, 110) for i, v in enumerate(["kick", "snare", "tom_low", "cross_stick"])]
    strikes[1].grace_leads_s = (0.03,)
    rng = np.random.default_rng(0)
    clip = judged_clip(strikes, kit, rng, length_s=2.5)
    found = labelled(Playing(strikes), clip.sound, clip.over_db, rng)
    assert found["x"].shape[1] == PATCH_SIZE and found["hit"].shape[1] == len(HEARD_VOICES)
    for s in strikes:
        assert found["hit"][:, VOICE_INDEX[s.voice]].any()
    assert np.abs(found["late_s"]).max() <= REACH_S and np.isnan(found["bar"]).all()
    assert found["velocity"][found["hit"] == 1] == pytest.approx(110 / 127)
    flammed = found["ornament"][:, 0] == 1
    assert flammed.any() and found["hit"][flammed, VOICE_INDEX["snare"]].all()
    assert found["ornament"][flammed, 2] == pytest.approx(0.03)


def test_the_network_that_is_trained_is_the_one_that_is_run() -> None:
    """Sizes that stand in two places, since the training runs in an environment of its own."""
    text = (Path(__file__).parents[1] / "tools/training/network.py").read_text()
    assert f"PARTS, BANDS, OWN_SIZE = {PARTS}, {BANDS}, {OWN_SIZE}" in text
    groups = [NET_GROUPS.index(v.group) for v in HEARD_VOICES]
    assert f"GROUP_OF_VOICE = np.array({groups})" in (Path(__file__).parents[1] / "tools/training/clips.py").read_text()


class Unpacked:
    """What must not be copied to another process."""

    def __reduce__(self) -> str:
        raise AssertionError("it was packed")

    def doubled(self, number: int) -> int:
        return 2 * number


def test_processes_share_what_their_work_holds() -> None:
    assert list(at_once(Unpacked().doubled, range(9), 3)) == [2 * n for n in range(9)]


def same(one: dict[str, np.ndarray], other: dict[str, np.ndarray]) -> bool:
    return one.keys() == other.keys() and all(np.array_equal(a, other[k], equal_nan=True) for k, a in one.items())


def test_material_follows_from_its_seed_and_number_alone(kit: kits.KitSamples, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(examples, "CLIPS_PER_KIT", 1)
    recipe, clips = Recipe(5, 0.5, 0.5), []
    for seed, number in ((5, 3), (5, 3), (5, 4), (6, 3)):
        clips.append(clips_of_kit(Recipe(seed, recipe.hard, recipe.apart), number, [kit])[0])
    assert same(clips[0], clips[1]) and not same(clips[0], clips[2]) and not same(clips[0], clips[3])
    assert len(clips[0]["x"]) == clips[0]["ends"][-1] > 5


@pytest.mark.parametrize(("share", "count"), [(0.0, 0), (1.0, 2)])
def test_as_many_kits_are_recoloured_as_are_asked_for(
    kit: kits.KitSamples, monkeypatch: pytest.MonkeyPatch, share: float, count: int
) -> None:
    done: list[kits.KitSamples] = []
    monkeypatch.setattr(examples, "CLIPS_PER_KIT", 0)
    monkeypatch.setattr(examples, "recoloured", lambda given, _: (done.append(given), given)[1])
    for number in range(2):
        assert clips_of_kit(Recipe(5, 0.0, 0.0, share), number, [kit]) == []
    assert len(done) == count


def test_a_file_of_material_is_made_once_and_whole(
    tmp_path: Path, kit: kits.KitSamples, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(examples, "KITS_PER_SHARD", 1)
    monkeypatch.setattr(examples, "CLIPS_PER_KIT", 2)
    recipe = Recipe(5, 0.0, 0.0)
    name = make_shard(1, recipe=recipe, bank=[kit], out=tmp_path)
    assert name == "examples-5-0001.npz" and [f.name for f in tmp_path.iterdir()] == [name]
    with np.load(tmp_path / name) as stored:
        assert len(stored["x"]) == stored["ends"][-1] and (np.diff(stored["ends"]) > 0).all()
    (tmp_path / name).write_bytes(b"made before")
    make_shard(1, recipe=recipe, bank=[kit], out=tmp_path)
    assert (tmp_path / name).read_bytes() == b"made before"


@pytest.mark.parametrize("seed", range(5))
def test_a_track_of_few_drums_holds_one_or_two_groups_of_the_playing(seed: int) -> None:
    rng = np.random.default_rng(seed)
    playing = random_playing(rng)
    few = few_drums(playing, rng)
    groups = {VOICES[VOICE_INDEX[s.voice]].group for s in few.strikes}
    assert 1 <= len(groups) <= 2
    assert few.strikes == [s for s in playing.strikes if VOICES[VOICE_INDEX[s.voice]].group in groups]
    assert few_drums(Playing([]), rng).strikes == []


def test_slow_metal_speaks_later_and_drums_do_not(kit: kits.KitSamples) -> None:
    for seed in range(6):
        slow = kits.slow_metal(kit, np.random.default_rng(seed))
        later = {voice for voice in kit if not np.array_equal(slow[voice][-1][1], kit[voice][-1][1])}
        assert later and not later & {"kick", "snare", "tom_low", "cross_stick"}
        for voice in later:
            before, now = (k[voice][-1][1].astype(float) for k in (kit, slow))
            assert np.abs(now[:20]).max() < np.abs(before[:20]).max()  # half a millisecond
            assert np.abs(now[4000:8000] - before[4000:8000]).max() < 1e-6


METAL = {voice for family in FAMILIES for voice in family}


def test_other_metal_is_other_and_drums_stay(kit: kits.KitSamples, other_kit: kits.KitSamples) -> None:
    kit, beside = ({name: [(v, s[:12000]) for v, s in k[name]] for name in k} for k in (kit, other_kit))
    changed = dict.fromkeys(kit, 0)
    for seed in range(8):
        other = other_metal(kit, [kit, beside], np.random.default_rng(seed))
        for voice, layers in kit.items():
            assert [v for v, _ in other[voice]] == [v for v, _ in layers]
            assert all(np.isfinite(s).all() and np.abs(s).max() > 0 for _, s in other[voice])
            changed[voice] += not np.array_equal(other[voice][-1][1][:5000], layers[-1][1][:5000])
    assert set(kit) >= METAL and all((changed[voice] > 3) == (voice in METAL) for voice in kit)


def test_a_pair_of_hats_is_retuned_as_one(kit: kits.KitSamples, monkeypatch: pytest.MonkeyPatch) -> None:
    for name in ("_STACKED", "_BANDED", "_TONED"):
        monkeypatch.setattr(metal, name, 0.0)
    monkeypatch.setattr(metal, "_RETUNED", 1.0)
    ratios = set()
    for seed in range(3):
        other = other_metal(kit, [kit], np.random.default_rng(seed))
        ratio = [len(other[voice][-1][1]) / len(kit[voice][-1][1]) for voice in FAMILIES[0]]
        assert ratio == pytest.approx([ratio[0]] * 4, abs=2e-3)
        ratios.add(round(ratio[0], 3))
    assert len(ratios) == 3 and 1.0 not in ratios


def test_stacked_metal_is_as_loud_as_each_of_the_two(kit: kits.KitSamples) -> None:
    others = [(v, 0.01 * sound) for v, sound in kit["ride"]]
    for share in (0.0, 1.0):
        for (_, one), (_, both) in zip(kit["crash"], metal.stacked(kit["crash"], others, share), strict=True):
            assert np.square(both[:4410]).sum() == pytest.approx(np.square(one[:4410]).sum(), rel=1e-3)


def test_metal_rings_on_where_it_is_asked_to() -> None:
    """Of white noise, whose length nothing but the damping sets."""
    noise = np.random.default_rng(2).standard_normal(kits.RATE).astype(np.float32)
    plain = {voice.name: [(100, noise)] for voice in HEARD_VOICES}

    def shortest_s(*, rings: bool) -> dict[str, float]:
        out = dict.fromkeys(("hat_closed", "hat_open", "ride", "crash"), np.inf)
        for seed in range(30):
            mixing = kits.RINGING if rings else kits.USUAL
            kit = kits.mixed_kit([plain], np.random.default_rng(seed), mixing)
            for voice in out:
                energy = np.cumsum(kit[voice][0][1].astype(float) ** 2)
                out[voice] = min(out[voice], int(np.argmax(energy >= 0.63 * energy[-1])) / kits.RATE)
        return out

    ringing, usual = shortest_s(rings=True), shortest_s(rings=False)
    for voice in ("hat_open", "ride", "crash"):
        assert ringing[voice] > 0.1 > usual[voice]
    assert ringing["hat_closed"] == usual["hat_closed"] < 0.1


def test_a_natural_kit_has_its_hats_from_one_source_and_nothing_stacked() -> None:
    """Of kits whose voices are silent, but for one tone in each: the level tells which kit a voice is from."""
    one, other = ({v.name: [(100, np.full(4000, level, np.float32))] for v in HEARD_VOICES} for level in (1.0, 1e4))
    mixing = replace(kits.NATURAL, shaped=0.0)
    for seed in range(12):
        kit = kits.mixed_kit([one, other], np.random.default_rng(seed), mixing)
        loud = {voice: float(np.abs(layers[0][1]).max()) > 100 for voice, layers in kit.items()}
        assert len({loud[voice] for voice in FAMILIES[0]}) == 1
        assert all(
            np.abs(np.log(np.abs(layers[0][1]).max() / (1e4 if loud[v] else 1))) < 2 for v, layers in kit.items()
        )


def test_natural_material_changes_kits_no_further(kit: kits.KitSamples, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(examples, "CLIPS_PER_KIT", 0)
    for name in ("recoloured", "layered_apart", "other_metal"):
        monkeypatch.setattr(examples, name, lambda *_: pytest.fail("it was changed"))
    for number in range(6):
        clips_of_kit(Recipe(5, 0.0, 1.0, 1.0, 1.0, natural=True), number, [kit])


@pytest.mark.parametrize(("share", "count"), [(0.0, 0), (1.0, 2)])
def test_the_metal_of_as_many_kits_is_remade_as_is_asked_for(
    kit: kits.KitSamples, monkeypatch: pytest.MonkeyPatch, share: float, count: int
) -> None:
    done: list[kits.KitSamples] = []
    monkeypatch.setattr(examples, "CLIPS_PER_KIT", 0)
    monkeypatch.setattr(examples, "other_metal", lambda given, *_: (done.append(given), given)[1])
    for number in range(2):
        assert clips_of_kit(Recipe(5, 0.0, 0.0, 0.0, share), number, [kit]) == []
    assert len(done) == count


def test_what_is_no_kit_is_labelled_where_nothing_of_a_kit_sounds(kit: kits.KitSamples) -> None:
    t = np.arange(kits.RATE // 4) / kits.RATE
    bells = [
        [(90, (np.sin(2 * np.pi * hz * t) * np.exp(-t / 0.1)).astype(np.float32))] for hz in np.geomspace(200, 2000, 20)
    ]
    shares = []
    for number in range(2):
        for clip in of_no_kit.clips_of_kit(8, number, [kit], bells):
            assert clip["x"].shape == (len(clip["no_kit"]), PARTS[0])
            shares.append(clip["no_kit"].mean())
    assert min(shares) == 0 and max(shares) > 0.3


def test_what_sounds_with_a_stroke_of_a_kit_is_no_other() -> None:
    sound = np.zeros(2 * kits.RATE, np.float32)
    for at in (0.3, 0.8, 1.3):
        sound[round(at * kits.RATE) :][:2000] += np.exp(-np.arange(2000) / 400).astype(np.float32)
    told = of_no_kit.stroke_labels(sound, np.array([0.3, 0.8]), np.array([0.805, 1.3]))
    assert told["no_kit"].tolist() == [False, False, True]


def test_the_slope_that_is_learned_by_is_that_of_the_loss() -> None:
    rng = np.random.default_rng(4)
    x, kind = rng.standard_normal((40, 5)).astype(np.float32), rng.random(40) < 0.3
    weight = rng.uniform(0.5, 2, 40).astype(np.float32) / 40
    flat = rng.standard_normal(UNITS * 5 + 2 * UNITS + 1)
    slope = loss(flat, x, kind, weight)[1]
    for at in (0, 7, UNITS * 5 + 3, UNITS * 6 + 2, -1):
        step = np.zeros(len(flat))
        step[at] = 3e-3
        by_steps = (loss(flat + step, x, kind, weight)[0] - loss(flat - step, x, kind, weight)[0]) / 6e-3
        assert slope[at] == pytest.approx(by_steps, abs=2e-4)
    large = 100 * flat
    assert loss(large, x * 0, kind, weight)[1][0] == pytest.approx(DECAY * large[0])  # nothing but the decay


def test_what_is_no_kit_is_learned_from_examples() -> None:
    rng = np.random.default_rng(1)
    other = np.arange(240) % 4 == 0
    x = np.clip(rng.uniform(0, 2, (240, PARTS[0])) + np.outer(other, np.arange(PARTS[0]) % 3 == 0), 0, 3)
    weights = fitted(x.astype(np.float32), other, seed=2, rounds=40)
    said = outputs(weights, x.astype(np.float32))
    assert said[other].min() > 0 > said[~other].max()
    seen = changed(x.astype(np.float32), rng)
    assert seen.shape == x.shape and seen.min() >= 0 and seen.max() <= 3
    assert 0.03 < np.abs(seen - x).mean() < 0.5


def test_kept_back_kits_are_never_trained_on() -> None:
    measured = kits.KEPT_BACK + kits.OTHERS
    assert {bank for bank, *_ in kits.TRAINED + measured} == set(kits.BANKS)
    assert not {bank for bank, *_ in kits.TRAINED} & {bank for bank, *_ in measured}


@pytest.mark.parametrize("seed", range(6))
def test_kept_back_grooves_are_grooves(seed: int) -> None:
    groove = random_groove(np.random.default_rng(seed))
    assert groove.pattern.bars == 4 and len(groove.pattern.hits) > 20
    bar = groove.pattern.meter.bar_ticks
    assert groove.pattern.at(bar, "kick") is not None  # beat 1 of the first bar may be silent


def test_a_kept_back_case_comes_with_its_truth(kit: kits.KitSamples) -> None:
    name, sound, told = make_case(1, [], np.random.default_rng(2))
    assert name == "case-01-synthesised" and len(told["hits"]) > 20 and np.isfinite(sound).all()
    assert max(h["time_s"] for h in told["hits"]) < len(sound) / kits.RATE
    assert {h["bar"] for h in told["hits"]} == {1, 2, 3, 4}
    hats = [h for h in told["hits"] if h["voice"] == "hat_closed"]
    assert all(-90 <= h["over_db"] <= 90 for h in hats)
    loud = max(hats, key=lambda h: h["velocity"])["level_db"] - min(hats, key=lambda h: h["velocity"])["level_db"]
    assert 3 < loud < 60


def test_the_order_that_levels_allow_is_that_of_the_dry_strokes() -> None:
    strokes = np.arange(8.0)
    nothing = np.zeros(0)

    def case(level_db: np.ndarray) -> Case:
        kicks = np.full(8, "kick")
        return Case("x", strokes, kicks, strokes < 0, strokes, 60 + strokes, level_db, nothing, kicks[:0], nothing)

    assert order_allowed([case(strokes)], "kick") == 1 and order_allowed([case(-strokes)], "kick") == -1
    assert order_allowed([case(strokes), case(-strokes)], "kick") == 0
    assert np.isnan(order_allowed([case(np.full(8, np.nan))], "kick"))  # a set that tells no levels
    assert np.isnan(order_allowed([case(strokes)], "hat"))


def test_a_wait_before_the_attack_is_cut_off() -> None:
    sound = np.concatenate([np.zeros(300), np.hanning(400)]).astype(np.float32)
    assert 300 <= kits.attack(sound) + kits.RATE // 2000 < 400


def spectrum_db(sound: np.ndarray) -> np.ndarray:
    """Level in twelve bands of the first tenth of a second."""
    power = np.abs(np.fft.rfft(sound[: kits.RATE // 10], 8192)) ** 2
    edges = np.geomspace(12, len(power) - 1, 13).astype(int)
    return 10 * np.log10(np.array([power[a:b].sum() for a, b in pairwise(edges)]) + 1e-9)


def test_a_recoloured_kit_keeps_its_touch_and_loses_its_maker(kit: kits.KitSamples) -> None:
    other = recoloured(kit, np.random.default_rng(6))
    assert set(other) == set(kit)
    moved = []
    for voice, layers in other.items():
        assert [v for v, _ in layers] == [v for v, _ in kit[voice]]
        peaks = [float(np.abs(sound).max()) for _, sound in layers]
        assert all(np.isfinite(s).all() for _, s in layers) and max(peaks) < 8 * max(
            np.abs(s).max() for _, s in kit[voice]
        )
        energy = [float((sound[: kits.RATE // 10].astype(float) ** 2).sum()) for _, sound in layers]
        assert energy[-1] > energy[0]
        away = spectrum_db(layers[-1][1]) - spectrum_db(kit[voice][-1][1])
        moved.append(float(np.std(away)))
    assert np.median(moved) > 2.0  # dB from band to band


def test_a_pair_of_hats_is_recoloured_as_one(kit: kits.KitSamples) -> None:
    hardest = {v: kit[v][-1:] for v in ("hat_closed", "hat_open", "snare")}
    together, apart = [], []
    for seed in range(12):
        other = recoloured(hardest, np.random.default_rng(seed))
        change = {
            v: spectrum_db(other[v][-1][1]) - spectrum_db(kit[v][-1][1]) for v in ("hat_closed", "hat_open", "snare")
        }
        together.append(np.corrcoef(change["hat_closed"], change["hat_open"])[0, 1])
        apart.append(np.corrcoef(change["hat_closed"], change["snare"])[0, 1])
    assert np.mean(together) > 0.5 and np.mean(together) > np.mean(apart) + 0.3


def patch_file(values: np.ndarray, rate: int, modes: int) -> bytes:
    head = bytearray(96)
    head[8:12], head[20:22], head[55] = struct.pack("<I", values.nbytes), struct.pack("<H", rate), modes
    return b"GF1PATCH110\0".ljust(129 + 63 + 47, b"\0") + bytes(head) + values.tobytes()


@pytest.mark.parametrize(("modes", "kind", "full"), [(1, "<i2", 32767), (3, "<u2", 32767), (0, "<i1", 127)])
def test_patches_of_single_strokes_are_read(tmp_path: Path, modes: int, kind: str, full: int) -> None:
    wave = np.sin(2 * np.pi * 441 * np.arange(2205) / 22050)
    whole = np.round(wave * full) + (full + 1 if modes & 2 else 0)
    file = tmp_path / "stroke.pat"
    file.write_bytes(patch_file(whole.astype(kind), 22050, modes))
    sound = patch_sound(file)
    wanted = np.sin(2 * np.pi * 441 * np.arange(4410) / 44100)
    assert len(sound) == 4410 and np.abs(sound - wanted)[200:-200].max() < 0.02
    file.write_bytes(b"RIFF")
    with pytest.raises(ValueError, match="no patch"):
        patch_sound(file)


@pytest.fixture(scope="module")
def strokes(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """Files named as the recorded strokes are: a wait, then noise that dies away, each at a level of its own."""
    folder, rng = tmp_path_factory.mktemp("strokes"), np.random.default_rng(3)
    recorded = {name for files in single_strokes._RECORDED.values() for name in files}
    machines = {name for pair in single_strokes._MACHINES for name in pair}
    for number, name in enumerate(sorted(recorded | machines)):
        dies = np.exp(-np.arange(4000) / 800) * rng.standard_normal(4000) / (5 + number)
        soundfile.write(folder / f"{name}.flac", np.concatenate([np.zeros(500), dies]), kits.RATE)
    return folder


def test_single_strokes_are_a_kit_that_begins_at_once(strokes: Path) -> None:
    kit = single_strokes.strokes_kit(strokes)
    assert "ride" not in kit and [v for v, _ in kit["snare"]] == [40, 105] and [v for v, _ in kit["hat_open"]] == [105]
    assert all(kits.attack(sound) == 0 and len(sound) > 3900 for layers in kit.values() for _, sound in layers)


def test_kits_of_single_strokes_are_whole_and_balanced_like_another(strokes: Path, kit: kits.KitSamples) -> None:
    whole = single_strokes.whole_kits(strokes, kit)
    assert len(whole) == 2 + len(single_strokes._MACHINES)
    for one in whole:
        assert set(one) == set(kit)
        for voice, layers in one.items():
            theirs, sound = kit[voice][-1]
            velocity, loudest = layers[-1]
            wanted = float(np.abs(sound).max()) * (velocity / theirs) ** 2
            assert float(np.abs(loudest).max()) == pytest.approx(wanted, rel=1e-3)
    assert whole[0]["ride"][-1][1] == pytest.approx(kit["ride"][-1][1])
    kicks = [one["kick"][-1][1][:200].tobytes() for one in whole]
    assert len(set(kicks)) == len(whole) - 1  # each machine has its own, the recorded kit comes twice


def test_a_stroke_at_another_rate_is_told(strokes: Path, tmp_path: Path) -> None:
    for file in strokes.iterdir():
        sound, _ = soundfile.read(file)
        soundfile.write(tmp_path / file.name, sound, 48000)
    with pytest.raises(ValueError, match=r"drum_bass_soft has 48000 Hz instead of 44100 Hz"):
        single_strokes.strokes_kit(tmp_path)


def test_a_blend_lies_between_two_networks() -> None:
    first = {"weight": np.array([1.0, 2.0], np.float16), "heads": np.array(4)}
    second = {"weight": np.array([3.0, 0.0], np.float16), "heads": np.array(4)}
    between = blended(first, second, 0.25)
    assert between["weight"].tolist() == [1.5, 1.5] and between["weight"].dtype == np.float16
    assert between["heads"] == 4
    with pytest.raises(ValueError, match="differ in shape"):
        blended(first, {**second, "weight": np.zeros(3, np.float16)}, 0.5)
