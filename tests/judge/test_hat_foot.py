"""What a foot does to the hat is its work: it cannot play the second pedal just before, or while the hat is open."""

from dataclasses import replace

import pytest

from ghoststep.files.textgrid import parse_grid
from ghoststep.judge.check import Terms, checked
from ghoststep.judge.kit_setup import DOUBLE_PEDAL
from ghoststep.judge.players import PLAYERS

TWO = Terms(setup=DOUBLE_PEDAL)


def found(text: str, terms: Terms = TWO) -> list:
    return [f for f in checked(parse_grid(text), terms).findings if f.kind == "impossible"]


def test_a_left_foot_before_the_hat_that_it_opens_is_told_with_the_tempo_at_which_it_goes() -> None:
    text = "tempo 200\nhat_closed x-----x-x-x-x-x-\nhat_open ----x-----------\nkick X--x------------\n"
    text += "hit kick bar 1 1.75 limb H\n"
    [only] = found(text)
    assert only.name == "foot elsewhere" and only.playable_to_bpm == 187 and "75 ms later" in only.why
    assert not found(text.replace("tempo 200", "tempo 180"))


@pytest.mark.parametrize("spot", ["2.25", "2.5", "2.75"])
def test_a_hat_that_is_open_still_keeps_the_foot(spot: str) -> None:
    text = f"tempo 90\nhat_closed x-x---x-x-x-x-x-\nhat_open ----x-----------\nhit kick bar 1 {spot} limb H\n"
    told = [f for f in found(text) if f.name == "foot elsewhere"]
    assert bool(told) == (spot != "2.75")
    if told:
        assert "has not closed" in told[0].why and "limb k on kick" in told[0].mends[0]


def test_a_run_of_kicks_gives_the_left_foot_none_that_it_has_no_time_for() -> None:
    text = "tempo 120\nhat_closed x-------x-----x-\nhat_open ----x-----------\nkick XxXxXxXxX-------\n"
    report = checked(parse_grid(text), TWO)
    assert not [f for f in report.findings if f.name == "foot elsewhere"]
    limbs = [report.played.limbs[i] for i, h in enumerate(report.played.hits) if h.voice == "kick"]
    assert "H" in limbs and limbs[4:8] == ["K"] * 4


def test_doubles_of_one_foot_bounce_for_those_who_can() -> None:
    text = "tempo 165\nkick Xx------Xx------\nsnare ----X-------X---\n"  # 91 ms apart
    for name, able in (("learner", False), ("working", True), ("virtuoso", True)):
        terms = replace(Terms(), player=PLAYERS[name])
        assert (not found(text, terms)) == able, name
    assert found("tempo 165\nkick XxXxXxXxXxXxXxXx\n", replace(Terms(), player=PLAYERS["virtuoso"]))
