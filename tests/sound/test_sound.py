from dataclasses import replace

import numpy as np
import pytest

from ghoststep.files.textgrid import parse_grid
from ghoststep.music.errors import Cancelled, InputError
from ghoststep.music.kit import VOICE_INDEX, VOICE_NAMES
from ghoststep.music.performance import Performance
from ghoststep.music.time import TempoMap
from ghoststep.sound.loudness import energy
from ghoststep.sound.program import Source, Tape, Wish, program
from ghoststep.sound.recipe import NIGHT_TRAM_KIT
from ghoststep.sound.render import choke_times_s, render
from ghoststep.sound.room import in_room
from ghoststep.sound.sketch import SketchKit
from ghoststep.sound.stretch import stretched
from ghoststep.sound.strike import strike

RATE = 44100
KIT = SketchKit(rate=RATE)


def played(*rows: tuple[float, str, int], length_s: float = 1.0) -> Performance:
    return Performance.of(
        [t for t, _, _ in rows], [VOICE_INDEX[v] for _, v, _ in rows], [x for _, _, x in rows], length_s=length_s
    )


def brightness(sound: np.ndarray) -> float:
    """Share of the energy above 1.5 kHz."""
    power = np.abs(np.fft.rfft(sound)) ** 2
    return float(power[np.fft.rfftfreq(len(sound), 1 / RATE) > 1500].sum() / power.sum())


@pytest.mark.parametrize("voice", VOICE_NAMES)
def test_every_voice_sounds_louder_with_velocity(voice: str) -> None:
    soft, loud = (KIT.mono_blow(voice, v, np.random.default_rng(1)) for v in (32, 120))
    assert np.isfinite(loud).all() and np.abs(loud).max() < 2
    ratio_db = 20 * np.log10(np.sqrt((loud**2).sum() / (soft**2).sum()))
    assert ratio_db == pytest.approx(40 * np.log10(120 / 32), abs=3)


@pytest.mark.parametrize("voice", ["kick", "snare", "tom_low", "cross_stick"])
def test_hard_strokes_are_brighter_and_not_only_louder(voice: str) -> None:
    soft, loud = (strike(NIGHT_TRAM_KIT[voice], v / 127, rate=RATE, seed=3) for v in (25, 125))
    assert brightness(loud) > 1.03 * brightness(soft)


def test_no_two_equal_hits_are_identical_but_a_render_is() -> None:
    performance = played((0.0, "snare", 90), (0.5, "snare", 90), length_s=1.0)
    sound = render(performance, KIT)
    first, second = sound[: RATE // 4], sound[RATE // 2 : RATE // 2 + RATE // 4]
    assert not np.allclose(first, second, atol=1e-4)
    assert np.array_equal(sound, render(performance, SketchKit(rate=RATE)))


def test_hits_stand_on_the_nearest_sample() -> None:
    for at in (0.1, 0.12345, 0.3333333):
        sound = render(played((at, "cross_stick", 120)), KIT)
        assert np.flatnonzero(np.abs(sound).max(axis=1))[0] - round(at * RATE) in (0, 1)


def test_an_open_hat_ends_when_the_pedal_closes() -> None:
    performance = played((0.0, "hat_open", 100), (0.4, "hat_pedal", 30), (0.6, "hat_open", 100))
    assert choke_times_s(performance).tolist() == [0.4, np.inf, np.inf]
    alone = render(performance, KIT, voices=("hat_open",))
    gap = alone[round(0.45 * RATE) : round(0.59 * RATE)]
    assert np.abs(gap).max() == 0 and np.abs(alone[: round(0.4 * RATE)]).max() > 0.05


def test_stems_add_up_to_the_whole() -> None:
    groove = parse_grid("kick X---x---X---x---\nsnare ----X--o----X---\nhat_open x-x-x-x-x-x-x-x-")
    from ghoststep.feel.perform import perform

    performance = perform(groove)
    whole = render(performance, KIT, length_s=3)
    stems = sum(render(performance, KIT, length_s=3, voices=(v,)) for v in groove.pattern.voices)
    assert np.allclose(whole, stems, atol=1e-5)


def test_early_hits_keep_their_place_with_a_lead() -> None:
    sound = render(played((-0.01, "cross_stick", 120)), KIT, lead_s=0.05)
    assert np.flatnonzero(np.abs(sound).max(axis=1))[0] == pytest.approx(0.04 * RATE, abs=2)
    assert render(played(length_s=0.5), KIT).shape == (RATE // 2, 2)


def test_rendering_can_be_stopped_and_rates_are_checked() -> None:
    def stop(_share: float) -> None:
        raise Cancelled("stopped")

    with pytest.raises(Cancelled):
        render(played((0.0, "kick", 99)), KIT, progress=stop)
    with pytest.raises(InputError, match="sample rate"):
        SketchKit(rate=10)


def test_a_room_adds_a_tail_and_keeps_the_direct_sound() -> None:
    click = np.zeros((2000, 2))
    click[0] = 1
    out = in_room(click, rate=RATE, decay_s=0.2, wet=0.1)
    assert out[0] == pytest.approx([1, 1], abs=0.05) and 0 < np.abs(out[3000:]).max() < 0.2


# -- programs ---------------------------------------------------------------------------------------------------

GROOVE = parse_grid(
    "tempo 120\nkick X-------X------- | X-------X-------\nhat_closed x-x-x-x-x-x-x-x- | x-x-x-x-x-x-x-x-"
)
BAR_TICKS = 80640


def tape(start_s: float = 0.25) -> Tape:
    sound = np.random.default_rng(0).standard_normal((round(5 * RATE), 1)).astype(np.float32) * 0.1
    return Tape(sound, RATE, start_s, np.arange(8) * 0.5 + start_s, TempoMap.constant(120))


def test_a_loop_is_exactly_as_long_as_its_region() -> None:
    whole = program(GROOVE, KIT, Wish())
    assert len(whole.samples) == 4 * RATE and whole.passes == (Source.GROOVE,)
    bar = program(GROOVE, KIT, Wish(region_ticks=(BAR_TICKS, 2 * BAR_TICKS)))
    assert len(bar.samples) == 2 * RATE and bar.position_ticks(RATE) == 1.5 * BAR_TICKS


def test_in_turn_plays_the_recording_first_and_both_as_long() -> None:
    both = program(GROOVE, KIT, Wish(source=Source.IN_TURN), tape())
    assert len(both.samples) == 8 * RATE
    assert both.source_at(0) is Source.RECORDING and both.source_at(5 * RATE) is Source.GROOVE
    assert both.position_ticks(4 * RATE + 1) == pytest.approx(both.position_ticks(1))
    # The recording as it is, but for its level: both are heard equally loud.
    meant = tape().samples[RATE // 4 + 100 : RATE // 4 + 2 * RATE, 0]
    assert np.corrcoef(both.samples[100 : 2 * RATE, 0], meant)[0, 1] > 0.999


def loudness_db(samples: np.ndarray) -> float:
    return 10 * float(np.log10(energy(samples, RATE)))


def test_recording_and_groove_are_heard_together_and_left_and_right_equally_loud() -> None:
    groove = program(GROOVE, KIT, Wish(loop=False)).samples
    quiet = replace(tape(), samples=tape().samples * np.float32(0.1))
    sides = program(GROOVE, KIT, Wish(source=Source.SIDES, loop=False), quiet).samples
    assert np.corrcoef(sides[:RATE, 0], groove[:RATE].mean(axis=1))[0, 1] > 0.999
    together = program(GROOVE, KIT, Wish(source=Source.TOGETHER, loop=False), quiet)
    rest = together.samples - groove[: len(together.samples)]
    meant = quiet.samples[RATE // 4 : RATE // 4 + RATE, 0]
    assert np.corrcoef(rest[:RATE, 0], meant)[0, 1] > 0.99 and together.position_ticks(0) == 0
    assert abs(loudness_db(rest) - loudness_db(groove)) < 12 and loudness_db(rest) > loudness_db(quiet.samples) + 6


def test_limbs_rest_and_a_groove_is_built_up_limb_by_limb() -> None:
    feet = program(GROOVE, KIT, Wish(loop=False, resting=frozenset("RL"))).samples
    kick = program(GROOVE, KIT, Wish(loop=False, muted=frozenset({"snare", "hat_closed"}))).samples
    assert np.allclose(feet, kick, atol=1e-6)
    built = program(GROOVE, KIT, Wish(build_up=("K", "L", "R"), build_passes=2))
    limbs = len({h.limb_letter for h in GROOVE.pattern.hits})
    one = len(built.samples) // (2 * limbs)
    assert limbs > 1 and len(built.passes) == 2 * limbs and built.pass_length == one
    assert np.allclose(built.samples[:one], built.samples[one : 2 * one], atol=1e-6)
    whole = program(GROOVE, KIT, Wish()).samples
    assert np.allclose(built.samples[(2 * limbs - 1) * one :], whole[:one], atol=1e-5)
    assert np.abs(built.samples[:one]).max() < np.abs(whole).max() or len(whole) == one


def test_the_recording_is_found_by_the_tempo_it_was_heard_in() -> None:
    """A groove that was made slower since plays beside the same bars of its recording."""
    slower = GROOVE.changed(tempo=TempoMap.constant(100))
    wish = Wish(source=Source.RECORDING, region_ticks=(BAR_TICKS, 2 * BAR_TICKS), loop=False)
    found = program(slower, KIT, wish, tape())
    from_s = 0.25 + 2.0  # bar 2 at 120 BPM
    meant = tape().samples[round(from_s * RATE) + 100 : round((from_s + 0.1) * RATE), 0]
    assert np.allclose(found.samples[100 : 100 + len(meant), 0], meant, atol=1e-6)
    assert len(found.samples) == round(2.4 * RATE)  # and lasts as long as the groove's bar does now


def test_without_a_recording_the_groove_is_played() -> None:
    assert program(GROOVE, KIT, Wish(source=Source.RECORDING)).passes == (Source.GROOVE,)


def test_what_rings_over_the_loop_point_is_heard_at_its_start() -> None:
    groove = parse_grid("tempo 120\ncrash --------------X-")
    looped = program(groove, KIT, Wish(loop=True)).samples
    once = program(groove, KIT, Wish(loop=False)).samples
    assert np.abs(looped[: RATE // 2]).max() > 0.01 and np.abs(once[: RATE // 2]).max() == 0


def test_half_speed_is_twice_as_long_with_click_and_count_in() -> None:
    slow = program(GROOVE, KIT, Wish(speed=0.5, click=True, count_in=True), tape())
    assert len(slow.samples) == 8 * RATE and len(slow.count_in) == 4 * RATE
    plain = program(GROOVE, KIT, Wish(speed=0.5), tape())
    clicks = np.abs(slow.samples - plain.samples).max(axis=1)
    assert clicks[: RATE // 100].max() > 0.1 and clicks[RATE : RATE + RATE // 100].max() > 0.1
    assert np.abs(slow.samples).max() <= 1


def test_stretching_keeps_attacks_sharp_and_in_place() -> None:
    sound = np.zeros((2 * RATE, 2), np.float32)
    cuts = np.array([0.5, 1.0, 1.5])
    for c in cuts:
        blow = KIT.mono_blow("snare", 110, np.random.default_rng(int(c * 10)))[: RATE // 2]
        sound[round(c * RATE) : round(c * RATE) + len(blow)] += blow[: len(sound) - round(c * RATE), None]
    for factor in (1.0, 1.7, 0.6):
        out = stretched(sound, cuts, factor, RATE)
        assert len(out) == round(len(sound) * factor)
        for c in cuts:
            # The 2 ms of silence that move with each piece keep their length.
            at = round((c - 0.002) * factor * RATE) + round(0.002 * RATE)
            before, after = np.abs(out[at - 60 : at - 6]).max(), np.abs(out[at : at + 60]).max()
            assert after > 5 * before
    assert np.isfinite(stretched(sound, cuts, 4.0, RATE)).all()
