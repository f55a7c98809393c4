"""The check: every kind of finding planted and found, none where a drummer plays, limits of tempo, likeness."""

import random
from dataclasses import replace

import numpy as np
import pytest
from bench.parts import BAR, by_dice, by_player, copied, playable

from ghoststep.files.textgrid import parse_grid
from ghoststep.judge.check import Report, Terms, checked
from ghoststep.judge.finding import KINDS
from ghoststep.judge.kit_setup import DOUBLE_PEDAL, STANDARD, KitSetup
from ghoststep.judge.likeness import deviations, taken_for
from ghoststep.judge.players import PLAYERS, player
from ghoststep.music.errors import InputError
from ghoststep.music.groove import Groove
from ghoststep.music.pattern import hit
from ghoststep.music.time import TempoMap


def found(groove: Groove, terms: Terms | None = None) -> set[str]:
    return {f.name for f in checked(groove, terms or Terms()).findings}


def grid(text: str, terms: Terms | None = None) -> Report:
    return checked(parse_grid(text), terms or Terms())


def names(text: str, kind: str = "", terms: Terms | None = None) -> list[tuple[str, int, str]]:
    return [(f.name, f.bar, f.spot) for f in grid(text, terms).findings if f.kind == kind or not kind]


# -- impossible ---------------------------------------------------------------------------------------------------


def test_what_no_drummer_could_play_is_found_where_it_is() -> None:
    assert names("meter 1/4\ncrash X---\nsnare X---\nhat_closed x-x-", "impossible") == [("three hands", 1, "1")]
    assert names("meter 1/4\nhat_open --x-\nhat_pedal --x-", "impossible") == [("open and shut", 1, "1&")]
    assert names("meter 1/4\nhat_open --x-\nhat_closed --x-", "impossible") == [("two hats", 1, "1&")]
    assert names("tempo 150\nkick xxxxxxxxxxxxxxxx", "impossible") == [("too fast", 1, "1")]
    no_pedal = Terms(setup=KitSetup("none", kick_pedals=0))
    assert names("meter 1/4\nkick x---", "impossible", no_pedal) == [("no pedal", 1, "1")]


def test_a_closed_hat_may_be_struck_while_the_foot_holds_it() -> None:
    assert names("meter 1/4\nhat_closed --x-\nhat_pedal --x-", "impossible") == []


def test_given_hands_clash_and_the_other_hand_mends_it() -> None:
    groove = parse_grid("meter 2/4\nhat_closed x---x---\nsnare ----x---")
    hits = tuple(replace(h, limb="R") for h in groove.pattern.hits)
    report = checked(groove.changed(hits=hits))
    clash = next(f for f in report.findings if f.name == "hands clash")
    assert clash.spot == "2" and clash.mends[0].startswith("limb L on ")
    assert report.limbs == {0: "R", 1: "R", 2: "R"}


def test_two_pedals_play_what_one_foot_cannot() -> None:
    text = "tempo 150\nkick xxxxxxxxxxxxxxxx"
    assert names(text, "impossible") and not names(text, "impossible", Terms(setup=DOUBLE_PEDAL))
    assert "".join(grid(text, Terms(setup=DOUBLE_PEDAL)).limbs.values()) == "KHKHKHKHKHKHKHKH"


def test_the_second_pedal_waits_while_the_hat_is_stepped_on() -> None:
    report = grid("tempo 150\nkick xxxx------------\nhat_pedal -x--------------", Terms(setup=DOUBLE_PEDAL))
    kicks = [report.limbs[i] for i, h in enumerate(report.played.hits) if h.voice == "kick"]
    assert kicks == ["K", "K", "H", "K"]


def test_the_limit_is_the_tempo_up_to_which_it_goes() -> None:
    text = "kick xxxxxxxxxxxxxxxx"
    report = grid(f"tempo 150\n{text}")
    fast = report.findings[0]
    assert fast.playable_to_bpm == 90  # six sixteenths a second held by one foot
    assert "from 90 BPM down" in fast.why
    assert not names(f"tempo {fast.playable_to_bpm}\n{text}", "impossible")
    assert names(f"tempo 99\n{text}", "impossible")
    limits = {(row.bar, row.limb): row.whole_bpm for row in report.limits}
    assert limits == {(1, "K"): 90}
    learner = {row.limb: row.whole_bpm for row in grid(f"tempo 80\n{text}", Terms(PLAYERS["learner"])).limits}
    assert learner["K"] < 90 < {row.limb: row.whole_bpm for row in grid(text, Terms(PLAYERS["virtuoso"])).limits}["K"]


def test_limits_do_not_hang_on_the_tempo_there_is_and_follow_changes() -> None:
    text = "hat_closed xxxxxxxxxxxxxxxx\nsnare ----X--o-o--X--o"
    at = [{(r.bar, r.limb): r.whole_bpm for r in grid(f"tempo {bpm}\n{text}").limits} for bpm in (60, 61)]
    assert at[0] == at[1] and at[0][1, "R"] > 60
    changing = parse_grid("tempo 80\nkick xxxxxxxxxxxxxxxx | xxxxxxxxxxxxxxxx")
    changing = changing.changed(tempo=TempoMap.of([(0, 80.0, 80.0), (BAR, 120.0, 120.0)]))
    assert [f.bar for f in checked(changing).findings if f.kind == "impossible"] == [2]


def test_a_way_too_far_is_told_with_its_drums() -> None:
    groove = parse_grid("tempo 170\nmeter 2/4\nride x-------\ntom_high -x------\nsnare xx------")
    far = [f for f in checked(groove).findings if f.name == "far"]
    assert far and "ms" in far[0].why


def planted(groove: Groove, rng: random.Random) -> tuple[Groove, int, str]:
    """A groove with one thing in it that cannot be played; its bar and which finding it is."""
    bar = rng.randrange(groove.pattern.bars)
    at = bar * BAR
    kind = rng.choice(["three hands", "open and shut", "too fast"])
    hits = list(groove.pattern.hits)
    if kind == "three hands":
        at += rng.choice([0, 20160, 40320])
        hits = [h for h in hits if h.position_ticks != at]
        hits += [hit(at, v, 80) for v in rng.sample(["snare", "ride", "crash", "tom_high", "tom_low"], 3)]
    elif kind == "open and shut":
        at += rng.choice([10080, 30240])
        hits = [h for h in hits if h.position_ticks != at]
        hits += [hit(at, "hat_open", 80), hit(at, "hat_pedal", 60)]
    else:
        hits = [h for h in hits if not (h.voice == "kick" and at <= h.position_ticks < at + BAR)]
        hits += [hit(at + 2520 * i, "kick", 80) for i in range(12)]
    return groove.changed(hits=tuple(hits)), bar + 1, kind


def test_one_impossible_thing_in_each_of_300_grooves_is_found() -> None:
    rng = random.Random(7)
    missed = 0
    for _ in range(300):
        groove, bar, kind = planted(playable(rng, 4), rng)
        report = checked(groove)
        missed += not any(f.kind == "impossible" and f.bar == bar and f.name == kind for f in report.findings)
    assert missed <= 3


def test_what_drummers_play_raises_no_false_alarm() -> None:
    rng, dice = random.Random(8), np.random.default_rng(8)
    bars = alarms = 0
    for _ in range(150):
        groove = by_player(playable(rng, 8), dice)
        bars += groove.pattern.bars
        alarms += sum(f.kind == "impossible" for f in checked(groove).findings)
    assert alarms * 100 < bars


# -- unlikely, unclear, balance -----------------------------------------------------------------------------------


def test_time_that_goes_on_through_a_crash() -> None:
    text = "ride x-x-x-x-x-x-x-x- | {}-x-x-x-x-x-x-x-\ncrash ---------------- | X---------------"
    assert ("through the crash", 2, "1") in names(text.format("x"))
    assert "through the crash" not in {n for n, _, _ in names(text.format("-"))}
    far = f"tempo 55\nride {'x---' * 4} | {'x---' * 4}\ncrash {'-' * 16} | X{'-' * 15}"
    assert "through the crash" not in {n for n, _, _ in names(far)}  # strokes a second apart leave the hand its way
    alone = "tempo 60\nride " + "|".join(["x" + "-" * 15] * 3)
    alone += f"\ncrash {'-' * 16} | X{'-' * 15} | {'-' * 16}"
    assert "through the crash" not in {n for n, _, _ in names(alone)}  # one stroke together is a colour, and no time


def test_a_ghost_without_time_a_jump_and_a_flam_with_full_hands() -> None:
    groove = parse_grid("tempo 160\nsnare x---------------\ntom_low -o--------------")
    hits = tuple(replace(h, limb="R") for h in groove.pattern.hits)
    assert "no time for a ghost" in found(groove.changed(hits=hits))
    jump = parse_grid("tempo 90\nmeter 2/4\nhat_closed x-x-x-x-\ntom_low -x------")
    hits = tuple(replace(h, limb="R") for h in jump.pattern.hits)
    assert "hand jumps" in found(jump.changed(hits=hits))
    flam = parse_grid("meter 2/4\nhat_closed x---x---\nsnare ----X---")
    ornate = tuple(replace(h, ornament="flam") if h.voice == "snare" else h for h in flam.pattern.hits)
    assert ("flam and more", "hard") in {(f.name, f.kind) for f in checked(flam.changed(hits=ornate)).findings}


def test_roles_that_are_not_apart_and_ghosts_that_are_none() -> None:
    groove = parse_grid("snare x-o-x-o-x-o-x-o-")
    loud = tuple(replace(h, velocity=90) if h.role == "ghost" else h for h in groove.pattern.hits)
    assert {"loud ghosts", "roles not apart"} <= found(groove.changed(hits=loud))
    near = tuple(replace(h, velocity=66) if h.role == "ghost" else h for h in groove.pattern.hits)
    assert found(groove.changed(hits=near)) & {"loud ghosts", "roles not apart"} == {"roles not apart"}
    assert not found(groove) & {"loud ghosts", "roles not apart"}


def test_a_flam_too_wide_for_the_tempo() -> None:
    groove = parse_grid("tempo 100\nsnare x---x---x---x---")
    grace = hit(20160, "snare", 30, grace=True, offset_ms=-80.0)
    assert "wide flam" in found(groove.changed(hits=(*groove.pattern.hits, grace)))
    assert "wide flam" not in found(groove.changed(hits=(*groove.pattern.hits, replace(grace, offset_ms=-28.0))))


def test_hats_over_the_backbeat_and_kick_and_snare_apart() -> None:
    groove = parse_grid(
        "levels snare accent 80\nhat_closed X-X-X-X-X-X-X-X-\nsnare X-X-----X-X-----\nkick ----x-x-----x-x-"
    )
    assert "hats over the snare" in found(groove)
    soft = tuple(replace(h, velocity=30) if h.voice == "kick" else h for h in groove.pattern.hits)
    assert "kick and snare apart" in found(groove.changed(hits=soft))


# -- mechanical ---------------------------------------------------------------------------------------------------


def test_machines_are_told_by_what_gives_them_away() -> None:
    text = "hat_closed x-x-x-x-x-x-x-x-\nsnare ----X-------X---\nkick X-------X-------"
    four = parse_grid("\n".join(f"{r.split()[0]} {'|'.join([r.split()[1]] * 4)}" for r in text.splitlines()))
    assert {"equal strokes", "equal backbeats", "same bars", "no spread"} <= found(four)
    assert not found(four, Terms(styles=frozenset({"machine"}))) & {"equal strokes", "same bars", "no spread"}
    loop = found(four, Terms(styles=frozenset({"loop"})))
    assert "same bars" not in loop and "no spread" in loop
    doubled = parse_grid("grid 32\nsnare " + "xx------" * 4)
    assert "even doubles" in found(doubled)
    softer = tuple(replace(h, velocity=h.velocity - 8 * (k % 2)) for k, h in enumerate(doubled.pattern.hits))
    assert "even doubles" not in found(doubled.changed(hits=softer))


def test_spread_without_memory_is_told() -> None:
    rng, dice = random.Random(3), np.random.default_rng(3)
    groove = playable(rng, 16)
    assert "no memory" in found(by_dice(groove, dice))
    assert "no memory" not in found(by_player(groove, dice))
    for spread, told in ((1.0, False), (6.0, True)):  # so little is nobody's business
        strays = [
            tuple(replace(h, offset_ms=float(dice.normal(0, spread))) for h in groove.pattern.hits) for _ in range(6)
        ]
        assert any("no memory" in found(groove.changed(hits=hits)) for hits in strays) is told


def test_dice_straight_copied_and_player_are_told_apart() -> None:
    rng, dice = random.Random(21), np.random.default_rng(21)
    right = tried = 0
    for _ in range(40):
        groove = playable(rng, 8)
        takes = {
            "straight": groove, "dice": by_dice(groove, dice), "copied": copied(groove, dice),
            "player": by_player(groove, dice),
        }  # fmt: skip
        for kind, take in takes.items():
            right += taken_for(deviations(checked(take).played)) == kind
            tried += 1
    assert right >= 0.95 * tried


def test_likeness_is_a_figure_with_its_reasons() -> None:
    rng, dice = random.Random(5), np.random.default_rng(5)
    groove = playable(rng, 8)
    machine, played = checked(groove).likeness, checked(by_player(groove, dice)).likeness
    assert machine.score < 0.5 < 0.7 < played.score <= 1
    spread = next(r for r in played.reasons if r.measure == "spread of time")
    assert spread.low <= spread.value <= spread.high and "ms" in spread.words
    assert checked(parse_grid("kick x---------------")).likeness.reasons == ()


# -- terms --------------------------------------------------------------------------------------------------------


def test_findings_stand_in_the_order_of_the_bars_and_can_be_meant_so() -> None:
    rng = random.Random(2)
    groove, _, _ = planted(playable(rng, 8), rng)
    report = checked(groove)
    assert [f.bar for f in report.findings] == sorted(f.bar for f in report.findings)
    assert all(f.kind in KINDS and 0 < f.sure <= 1 for f in report.findings)
    first = report.findings[0]
    assert first.key not in {f.key for f in checked(groove, meant=[first.key]).findings}


def test_bad_terms_say_what_there_is() -> None:
    with pytest.raises(InputError, match="learner, working, virtuoso"):
        player("robot")
    with pytest.raises(InputError, match="no style"):
        Terms(styles=frozenset({"jazz"}))
    with pytest.raises(InputError, match="no way to play"):
        Terms(way="with the teeth")
    with pytest.raises(InputError, match="pedals"):
        KitSetup(kick_pedals=3)
    with pytest.raises(InputError, match="further than 5"):
        KitSetup(stands={"snare": (9.0, 0.0)})
    assert STANDARD.distance("snare", "snare") == 0 < STANDARD.distance("snare", "ride")


def test_mirrored_players_find_mirrored_limbs() -> None:
    rng = random.Random(6)
    for _ in range(20):
        groove = playable(rng, 4)
        right, left = checked(groove), checked(groove, Terms(way="left-handed"))
        swap = {"R": "L", "L": "R"}
        assert {i: swap.get(x, x) for i, x in right.limbs.items()} == left.limbs
        assert len(right.findings) == len(left.findings)


def test_a_crowd_of_strokes_and_thousands_of_bars_are_judged_without_hanging() -> None:
    from ghoststep.music.kit import VOICE_NAMES

    crowd = Groove().changed(hits=tuple(hit(0, v, 80) for v in VOICE_NAMES))
    assert "three hands" in found(crowd) and found(Groove()) == set()
    many = parse_grid("kick x---------------").changed(bars=4096)
    assert checked(many).findings == ()
