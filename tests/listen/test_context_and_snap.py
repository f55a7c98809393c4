from dataclasses import replace

import numpy as np
import pytest

from ghoststep.feel.perform import perform
from ghoststep.files.analysis import analysis
from ghoststep.files.textgrid import parse_grid
from ghoststep.listen import way as context
from ghoststep.listen.bars.explain import Explained, explain
from ghoststep.listen.bars.reading import Hints
from ghoststep.listen.fit.snap import grace_notes, lattice, snapped
from ghoststep.listen.signal.groups import NET_GROUPS
from ghoststep.listen.signal.loudness import levels_db, unmasked, velocities
from ghoststep.listen.signal.spectrum import LISTEN_RATE
from ghoststep.listen.strokes.evidence import Evidence
from ghoststep.listen.strokes.hearing import DOUBTFUL, LIMITS, NO_KIT, Hearing, decided
from ghoststep.listen.strokes.network import Heard
from ghoststep.listen.strokes.own_strokes import FINE
from ghoststep.listen.strokes.rules.other_bars import HatsWithSnares, OtherBars
from ghoststep.music.errors import InputError
from ghoststep.music.feel import Feel, Swing
from ghoststep.music.frame import Bars
from ghoststep.music.kit import STROKE_NAMES, VOICE_INDEX, VOICES, voice
from ghoststep.music.performance import Performance
from ghoststep.music.time import TICKS_PER_QUARTER
from ghoststep.sound.sketch import sketch_kit

HAT = NET_GROUPS.index("hat")
Q = TICKS_PER_QUARTER


def told(odds: np.ndarray, voices: np.ndarray | None = None, *, velocity: float = 64) -> Heard:
    """What the network would say of n candidates: log-odds of the groups, and of the voices if they matter."""
    n = len(odds)
    flat = np.zeros((n, len(VOICES)), np.float32)
    return Heard(
        flat if voices is None else voices, flat + np.float32(velocity), flat, odds,
        grace_odds=np.full((n, 2), -6.0, np.float32), lead_s=np.full(n, 0.025, np.float32),
        buzz_odds=np.full(n, -6.0, np.float32), inner=np.zeros((n, 1), np.float32),
        level_db=np.zeros((n, len(NET_GROUPS))),
        fine=np.zeros((n, FINE), np.float16),
    )  # fmt: skip


def sure(**changes: float) -> tuple[Hearing, list[float]]:
    """A hearing of four bars of rock, sure of everything but what `changes` names as group=log-odds at candidate."""
    groove = parse_grid(
        "tempo 100\nhat_closed "
        + "|".join(["x-x-x-x-x-x-x-x-"] * 4)
        + "\nsnare "
        + "|".join(["----X-------X---"] * 4)
        + "\nkick "
        + "|".join(["X-----x-X-------"] * 4)
    )
    played = perform(groove).ordered()
    moments = np.unique(np.round(played.onset_s + 0.2, 6))
    odds = np.full((len(moments), len(NET_GROUPS)), -6.0, np.float32)
    voices = np.full((len(moments), len(VOICES)), -6.0, np.float32)
    voices[:, VOICE_INDEX["snare"]] = -5.0  # rather than a cross stick
    for t, v in zip(played.onset_s + 0.2, played.voice, strict=True):
        at = int(np.abs(moments - t).argmin())
        odds[at, NET_GROUPS.index(VOICES[v].group)] = 5.0
        voices[at, v] = 5.0
    heard = told(odds, voices, velocity=80)
    return decided(moments, heard, length_s=10, remarks=()), list(moments)


def with_odds(hearing: Hearing, at: int, group: int, odds: float) -> Hearing:
    changed = hearing.heard.group_odds.copy()
    changed[at, group] = odds
    heard = replace(hearing.heard, group_odds=changed)
    return decided(hearing.moments_s, heard, length_s=10, remarks=())


def count(hearing: Hearing, group: str) -> int:
    return sum(VOICES[v].group == group for v in hearing.performance.voice)


def evidence(hearing: Hearing) -> Evidence:
    return Evidence(hearing.moments_s, hearing.heard, explained=explain(hearing.performance))


def again(hearing: Hearing, weight: float = 0.6) -> Hearing:
    """Decided anew with the groove in mind, the network saying what it said before."""
    e = evidence(hearing)
    heard = e.moved(OtherBars(weight=weight).shift(e)).heard
    return decided(hearing.moments_s, heard, length_s=10, remarks=())


def test_hats_are_believed_by_their_bars_once_more_where_a_snare_is_struck() -> None:
    hearing, _ = sure()
    e = evidence(hearing)
    shift, found = OtherBars(weight=0.5).shift(e).groups, HatsWithSnares(weight=0.5).shift(e).groups
    assert shift is not None and found is not None
    snare, hat = NET_GROUPS.index("snare"), NET_GROUPS.index("hat")
    struck = hearing.heard.group_odds[:, snare] >= 0
    assert np.array_equal(found[struck, hat], shift[struck, hat]) and np.any(found)
    assert not found[~struck].any() and not np.delete(found, hat, axis=1).any()


def near_threshold(group: str, away: float) -> float:
    """Log-odds a little above or below those from which a hit of the group is believed."""
    chance = LIMITS[group]
    return float(np.log(chance / (1 - chance))) + away


def test_a_hole_in_a_row_of_hats_is_filled() -> None:
    full, _ = sure()
    holed = with_odds(full, 10, HAT, near_threshold("hat", -0.15))
    assert count(holed, "hat") == count(full, "hat") - 1
    assert count(again(holed), "hat") == count(full, "hat")


def test_a_lone_faint_ride_is_dropped_and_a_sure_crash_kept() -> None:
    full, _ = sure()
    cymbals = NET_GROUPS.index("cymbals")
    faint = with_odds(full, 7, cymbals, 1.3)
    assert count(faint, "cymbals") == 1 and count(again(faint), "cymbals") == 0
    assert count(again(with_odds(full, 0, cymbals, 6.0)), "cymbals") == 1


def test_heard_again_each_stroke_has_one_metal_and_a_lone_crash_stays(monkeypatch: pytest.MonkeyPatch) -> None:
    hearing, _ = sure()
    odds, voices = hearing.heard.group_odds.copy(), hearing.heard.voice_odds.copy()
    hats = np.flatnonzero(odds[:, HAT] > 0)
    cymbals = NET_GROUPS.index("cymbals")
    odds[hats, HAT], odds[hats, cymbals] = 0.5, 1.4
    odds[0, HAT], odds[0, cymbals], voices[0, VOICE_INDEX["crash"]] = -1.0, 4.0, 6.0
    voices[hats[1:], VOICE_INDEX["ride"]] = voices[hats[1:], VOICE_INDEX["hat_open"]] + 1.0
    first = replace(hearing, heard=replace(hearing.heard, group_odds=odds, voice_odds=voices))
    monkeypatch.setattr(context, "hear_in_bars", lambda heard, places: heard)
    again = context.heard_again(first, explain(hearing.performance))
    names = [VOICES[v].name for v in again.performance.voice]
    assert names.count("hat_closed") == len(hats) - 1 and names.count("crash") == 1 and "ride" not in names
    assert not again.perhaps


def test_heard_again_backbeats_of_a_ride_tell_the_foot(monkeypatch: pytest.MonkeyPatch) -> None:
    hearing, _ = sure()
    odds, voices = hearing.heard.group_odds.copy(), hearing.heard.voice_odds.copy()
    hats, backbeats = odds[:, HAT] > 0, odds[:, NET_GROUPS.index("snare")] > 0
    odds[hats, NET_GROUPS.index("cymbals")], odds[hats, HAT] = 5.0, -5.0
    odds[backbeats, HAT] = -1.3
    voices[hats, VOICE_INDEX["ride"]] = voices[hats, VOICE_INDEX["hat_pedal"]] = 6.0
    monkeypatch.setattr(context, "hear_in_bars", lambda heard, places: heard)
    fine = hearing.heard.fine.copy()
    fine[backbeats, : FINE // 2] = 1.0  # what is struck sounds different
    first = replace(hearing, heard=replace(hearing.heard, group_odds=odds, voice_odds=voices, fine=fine))
    off = ("other bars", "hats with snares")
    again = context.heard_again(first, explain(hearing.performance), off=off)
    names = [VOICES[v].name for v in again.performance.voice]
    assert names.count("ride") == hats.sum() and names.count("hat_pedal") == backbeats.sum()


def test_heard_again_what_was_said_of_doubts_is_judged_anew(monkeypatch: pytest.MonkeyPatch) -> None:
    hearing, _ = sure()
    monkeypatch.setattr(context, "hear_in_bars", lambda heard, places: heard)
    first = replace(hearing, remarks=("It is clipped.", DOUBTFUL, NO_KIT))
    assert context.heard_again(first, explain(hearing.performance)).remarks == ("It is clipped.",)


def test_heard_again_strokes_go_to_their_attacks_and_hats_to_what_other_bars_say(
    monkeypatch: pytest.MonkeyPatch,
) -> None:
    hearing, moments = sure()
    snare = NET_GROUPS.index("snare")
    odds = hearing.heard.group_odds.copy()
    at = int(np.flatnonzero((odds[:, snare] > 0) & (odds[:, HAT] > 0))[1])
    odds[at, HAT] = near_threshold("hat", -0.6)  # too little beside a snare
    voices = hearing.heard.voice_odds.copy()
    voices[:, VOICE_INDEX["hat_half"]] = 6.0  # as on a kit whose closed hats ring
    pedal = int(np.flatnonzero((odds[:, HAT] > 0) & (odds[:, snare] < 0))[3])
    voices[pedal, VOICE_INDEX["hat_pedal"]] = 8.0
    sound = np.zeros(10 * 44100, np.float32)
    kit = sketch_kit(44100)
    for moment, row in zip(moments, odds, strict=True):
        for g, name in ((snare, "snare"), (HAT, "hat_closed")):
            start = round((moment + 0.004) * 44100)
            blow = kit.mono_blow(name, 100, np.random.default_rng(g))[: min(4000, len(sound) - start)]
            sound[start : start + len(blow)] += blow * (row[g] > 0)
    fine = hearing.heard.fine.copy()
    fine[odds[:, snare] > 0, : FINE // 2] = 1.0  # what is struck sounds different
    told_so = replace(hearing.heard, group_odds=odds, voice_odds=voices, fine=fine)
    first = replace(hearing, heard=told_so, sound=sound)
    monkeypatch.setattr(context, "hear_in_bars", lambda heard, places: heard)
    explained = explain(hearing.performance)
    without, found = (context.heard_again(first, explained, off=off).performance for off in (("hats with snares",), ()))
    assert (len(without), len(found)) == (len(hearing.performance) - 1, len(hearing.performance))
    assert not np.isin(found.voice, [VOICE_INDEX["hat_half"], VOICE_INDEX["hat_pedal"]]).any()
    lone = [v in (VOICE_INDEX["hat_closed"], VOICE_INDEX["snare"]) for v in found.voice]
    later = found.onset_s[lone] - hearing.performance.onset_s[lone]
    assert np.median(later) == pytest.approx(0.004, abs=0.001)


def heard_in_part(whole: Hearing, kept: np.ndarray, monkeypatch: pytest.MonkeyPatch) -> Hearing:
    """At first only some of the hits were believed; heard again, all of them are."""
    arrays = ("onset_s", "voice", "velocity", "stroke", "stop_s")
    few = replace(whole.performance, **{name: getattr(whole.performance, name)[kept] for name in arrays})
    monkeypatch.setattr(context, "heard_again", lambda first, explained, off: whole)
    return replace(whole, performance=few, confidence=whole.confidence[kept])


def on_eighths(whole: Hearing, every: int) -> np.ndarray:
    """Which hits stand on one of so many eighths."""
    return np.asarray(np.round((whole.performance.onset_s - 0.2) / 0.3).astype(int) % every == 0)


def bars_of(explained: Explained) -> tuple[str, int]:
    return str(explained.groove.pattern.meter), round(explained.groove.tempo.main_bpm)


def test_bars_are_read_anew_where_the_second_hearing_has_far_more_hits(monkeypatch: pytest.MonkeyPatch) -> None:
    whole, _ = sure()
    first = heard_in_part(whole, on_eighths(whole, 3), monkeypatch)
    assert bars_of(explain(first.performance)) != ("4/4", 100), "a third of the eighths are other bars"
    again, explained = context.groove_of(first)
    assert len(again.performance) > 2 * len(first.performance)
    assert bars_of(explained) == ("4/4", 100)
    assert (str(explained.readings[0].meter), round(explained.readings[0].tempo_bpm)) == ("4/4", 100)


def lengths_read(monkeypatch: pytest.MonkeyPatch) -> list[int]:
    """Filled with how many hits bars were read from, each time they are."""
    read: list[int] = []

    def noted(performance: Performance, hints: Hints, *, confidence: np.ndarray) -> Explained:
        read.append(len(performance))
        return explain(performance, hints, confidence=confidence)

    monkeypatch.setattr(context, "explain", noted)
    return read


def test_bars_stay_where_the_second_hearing_has_nearly_the_same_hits(monkeypatch: pytest.MonkeyPatch) -> None:
    whole, _ = sure()
    first = heard_in_part(whole, np.arange(len(whole.performance)) % 5 > 0, monkeypatch)  # a fifth of them is new
    read = lengths_read(monkeypatch)
    context.groove_of(first)
    assert read == [len(first.performance)]


def test_bars_are_read_anew_where_the_second_hearing_takes_much_back(monkeypatch: pytest.MonkeyPatch) -> None:
    whole, _ = sure()
    part = heard_in_part(whole, on_eighths(whole, 2), monkeypatch)
    monkeypatch.setattr(context, "heard_again", lambda first, explained, off: part)
    read = lengths_read(monkeypatch)
    assert len(context.groove_of(whole)[0].performance) == len(part.performance)
    assert read == [len(whole.performance), len(part.performance)]


def test_a_click_that_other_hits_run_away_from_leaves_the_bars_as_they_were(monkeypatch: pytest.MonkeyPatch) -> None:
    whole, _ = sure()
    first = heard_in_part(whole, on_eighths(whole, 2), monkeypatch)
    once = explain(first.performance)

    def refused(performance: Performance, hints: Hints, *, confidence: np.ndarray) -> Explained:
        if len(performance) > len(first.performance):
            raise InputError("These hits run away from the click.")
        return once

    monkeypatch.setattr(context, "explain", refused)
    again, explained = context.groove_of(first)
    assert len(again.performance) == len(whole.performance) and explained.readings == once.readings


def test_without_weight_nothing_changes() -> None:
    full, _ = sure()
    same = again(full, 0.0)
    assert np.array_equal(same.performance.voice, full.performance.voice)
    assert np.allclose(same.confidence, full.confidence)


def test_decisions_merge_doubles_and_say_what_is_doubtful() -> None:
    moments = np.array([1.0, 1.012, 1.5])
    odds = np.full((3, 5), -6.0, np.float32)
    odds[:, 0] = [2.0, 5.0, 2.2]
    found = decided(moments, told(odds), length_s=2, remarks=())
    assert found.performance.onset_s.tolist() == [1.012, 1.5] and found.remarks == ()
    odds[2, :2] = -6.0, near_threshold("snare", 0.1)
    doubtful = decided(moments[2:], told(odds[2:]), length_s=2, remarks=())
    assert doubtful.remarks == (DOUBTFUL,)
    with pytest.raises(InputError, match="No drum"):
        decided(moments, told(odds - 20), length_s=2, remarks=())


def test_even_odds_are_offered_and_no_second_view_of_a_stroke_is() -> None:
    hearing, moments = sure()
    assert hearing.perhaps == ()
    snare = NET_GROUPS.index("snare")
    ghost = with_odds(hearing, 1, snare, -0.6)
    assert [(voice(p.voice).group, round(p.probability, 2)) for p in ghost.perhaps] == [("snare", 0.35)]
    assert ghost.perhaps[0].time_s == pytest.approx(moments[1], abs=0.03)
    assert count(ghost, "snare") == count(hearing, "snare")
    assert with_odds(hearing, 1, snare, -2.0).perhaps == ()
    close = hearing.moments_s.copy()
    at = int(np.flatnonzero(hearing.heard.group_odds[:, snare] > 0)[0])
    close[at - 1] = close[at] - 0.01  # another view of the stroke that follows
    odds = hearing.heard.group_odds.copy()
    odds[at - 1, snare] = -0.3
    again = decided(close, replace(hearing.heard, group_odds=odds), length_s=10, remarks=())
    assert again.perhaps == ()


def test_a_drag_is_a_stroke_with_two_softer_ones_ahead_and_a_buzz_is_named() -> None:
    moments = np.array([1.0, 1.5])
    odds = np.full((2, 5), -6.0, np.float32)
    odds[:, NET_GROUPS.index("snare")] = 4.0
    voices = np.full((2, len(VOICES)), -6.0, np.float32)
    voices[:, VOICE_INDEX["snare"]] = 5.0
    heard = told(odds, voices, velocity=90)
    heard.grace_odds[0] = 3.0
    heard.buzz_odds[1] = 3.0
    found = decided(moments, heard, length_s=2, remarks=())
    assert found.performance.onset_s == pytest.approx([0.95, 0.975, 1.0, 1.5])
    assert found.performance.velocity.tolist() == [36, 36, 90, 90]
    assert [STROKE_NAMES[s] for s in found.performance.stroke] == ["plain", "plain", "plain", "buzz"]


# -- snapping ---------------------------------------------------------------------------------------------------


@pytest.mark.parametrize("kind", ["straight", "swung", "triplet"])
def test_every_spot_of_a_lattice_is_its_own_nearest(kind: str) -> None:
    spots = np.concatenate([lattice(kind).ticks + i * Q for i in range(-1, 3)])
    swing = Swing(16, 0.58) if kind == "swung" else Swing()
    assert np.array_equal(snapped(swing.bend(spots, Bars()), swing, kind, quarter_s=0.6, bars=Bars()).ticks, spots)


def test_a_little_late_is_late_and_no_finer_note() -> None:
    quarter_s = 0.625

    def nearest(ticks: float) -> list[int]:
        return snapped(np.array([ticks]), Swing(), "straight", quarter_s=quarter_s, bars=Bars()).ticks.tolist()

    late = Q / 2 + 0.022 / quarter_s * Q
    assert snapped(np.array([late]), Swing(), "straight", quarter_s=quarter_s, bars=Bars()).ticks.tolist() == [Q // 2]
    middle = Q * 5 / 8
    assert snapped(np.array([middle]), Swing(), "straight", quarter_s=quarter_s, bars=Bars()).ticks.tolist() == [
        Q * 5 // 8
    ]


def test_graces_belong_to_the_louder_stroke_that_follows() -> None:
    onset = np.array([0.0, 0.970, 1.0, 1.5, 1.52, 2.0, 2.02])
    group = ["snare", "snare", "snare", "snare", "kick", "snare", "snare"]
    velocity = np.array([100, 40, 100, 40, 100, 100, 40], np.int16)
    assert grace_notes(onset, group, velocity) == {1: 2}
    drag = grace_notes(np.array([0.94, 0.97, 1.0]), ["snare"] * 3, np.array([30, 35, 100], np.int16))
    assert drag == {0: 2, 1: 2}


# -- the analysis -----------------------------------------------------------------------------------------------


def test_the_analysis_says_what_the_format_asks_for(grid_text: str) -> None:
    groove = parse_grid(grid_text).changed(feel=Feel(Swing(16, 0.58), {"snare": 10.0, "hat": -4.0}))
    played = perform(groove)
    explained = explain(type(played)(played.onset_s + 0.5, played.voice, played.velocity, played.stroke, 6.0))
    onset = tuple(float(played.onset_s[i]) + 0.5 for i in explained.source)
    content = analysis(explained, (0.9,) * len(onset), onset, ("a remark",))
    assert content["meter"] == [4, 4] and content["grouping"] == [1, 1, 1, 1] and content["remarks"] == ["a remark"]
    assert content["swing"]["unit"] == "16th" and content["pocket_ms"].keys() == {"kick", "snare", "hat"}
    times = [h["time_s"] for h in content["hits"]]
    assert times == sorted(times)
    for h in content["hits"]:
        top, bottom = map(int, h["position_beats"].split("/"))
        even = content["downbeat_s"] + ((h["bar"] - 1) * 4 + top / bottom) * 60 / content["tempo_bpm"]
        assert 1000 * (h["time_s"] - even) == pytest.approx(h["offset_ms"], abs=0.1)
        assert voice(h["voice"]) is VOICES[VOICE_INDEX[h["voice"]]]


# -- loudness ---------------------------------------------------------------------------------------------------


def hats_over_backbeats(leak: float) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """True levels in dB of 16 hats, levels by group as heard with a snare under every fourth, what is struck."""
    rng = np.random.default_rng(3)
    true_db = rng.normal(-20, 2.0, 16)
    heard = np.full((16, len(NET_GROUPS)), -60.0)
    struck = np.zeros(heard.shape, bool)
    hat, snare = NET_GROUPS.index("hat"), NET_GROUPS.index("snare")
    struck[:, hat], struck[2::4, snare] = True, True
    heard[2::4, snare] = rng.normal(-6, 1.0, 4)
    energy = 10 ** (true_db / 10)
    energy[2::4] += leak * 10 ** (heard[2::4, snare] / 10)
    heard[:, hat] = 10 * np.log10(energy)
    return true_db, heard, struck


def test_a_snare_under_a_hat_makes_it_no_louder() -> None:
    true_db, heard, struck = hats_over_backbeats(leak=0.15)
    hat = NET_GROUPS.index("hat")
    cleared = unmasked("hat", heard, struck)
    under = struck[:, NET_GROUPS.index("snare")]
    before, after = (np.abs(level - true_db)[under].max() for level in (heard[:, hat], cleared))
    assert before > 5 and after < 3
    assert np.array_equal(cleared[~under], heard[~under, hat])
    # A snare that adds nothing takes nothing away, and a snare under hats is no matter of the snare.
    _, quiet, struck = hats_over_backbeats(leak=0.0)
    assert np.allclose(unmasked("hat", quiet, struck), quiet[:, hat], atol=1.0)
    assert np.array_equal(unmasked("snare", heard, struck), heard[:, NET_GROUPS.index("snare")])
    # With no hat alone there is nothing to go by.
    assert np.array_equal(unmasked("hat", heard[under], struck[under]), heard[under, hat])


def test_levels_give_order_and_spread_and_the_network_the_middle() -> None:
    level = np.array([-30.0, -20.0, -24.0, -12.0, -18.0])
    found = velocities(np.array([70.0, 64.0, 66.0, 72.0, 68.0]), level)
    assert np.array_equal(np.argsort(found), np.argsort(level)) and 50 < np.median(found) < 80
    assert velocities(np.array([70.0, 20.0]), level[:2]).tolist() == [70, 20]
    assert velocities(np.full(5, 120.0), level * 9).max() <= 127


def test_levels_are_measured_in_each_drums_own_range() -> None:
    t = np.arange(LISTEN_RATE) / LISTEN_RATE
    low = (0.3 * np.sin(2 * np.pi * 60 * t)).astype(np.float32)
    found = levels_db(low, np.array([0.2, 0.5]))
    assert found.shape == (2, len(NET_GROUPS)) and found[1].argmax() == NET_GROUPS.index("kick")
    louder = levels_db(2 * low, np.array([0.5]))
    assert louder[0, 0] - found[1, 0] == pytest.approx(6.02, abs=0.01)
