"""Second strokes, the weaker hand and pushes into the ends of phrases, found again in what was played."""

from dataclasses import replace

import numpy as np
import pytest

from ghoststep.feel.measure import measured
from ghoststep.feel.perform import perform
from ghoststep.feel.words import feel_lines
from ghoststep.files.textgrid import parse_grid
from ghoststep.music.feel import Feel
from ghoststep.music.groove import Groove
from ghoststep.music.player import Touch, Wander
from ghoststep.music.time import TempoMap
from ghoststep.session.document.document import Document
from ghoststep.session.edits.commit import opened
from ghoststep.session.edits.feel_edits import printed

STICKING = "RLRRLRLL"


def doubles(bars: int = 8, *, limbs: bool = True) -> Groove:
    """A snare in sixteenths, single strokes and doubles in turn, over hats and kicks."""
    rows = {"hat_pedal": "x---x---x---x---", "snare": "xxxxxxxxxxxxxxxx", "kick": "x-------x-------"}
    groove = parse_grid("tempo 100\n" + "\n".join(f"{v} {' | '.join([r] * bars)}" for v, r in rows.items()))
    if not limbs:
        return groove
    hits = tuple(
        replace(h, limb=STICKING[h.position_ticks // 5040 % 8]) if h.voice == "snare" else h
        for h in groove.pattern.hits
    )
    return groove.changed(hits=hits)


def played(groove: Groove, feel: Feel) -> Groove:
    """The groove with a take of a feel written into its hits, and no feel."""
    return printed(opened(Document("x", groove.changed(feel=feel))))[1].groove


@pytest.mark.parametrize(
    ("second", "weaker", "hand"), [(0.82, 0.9, "L"), (0.9, 0.94, "R"), (1.0, 0.88, "L"), (0.8, 1.0, "L")]
)
def test_the_hands_are_found_again(second: float, weaker: float, hand: str) -> None:
    for take in range(4):
        touch = Touch(second=second, weaker=weaker, weaker_hand=hand)
        feel = Feel(loose_ms=3.0, take=take, touch=touch, wander=Wander(velocity=4.0))
        found = measured(played(doubles(16), feel)).feel.touch
        assert found.second == pytest.approx(second, abs=0.035) and found.weaker == pytest.approx(weaker, abs=0.035)
        if weaker < 1:
            assert found.weaker_hand == hand


def test_laid_on_another_part_the_hands_are_the_players() -> None:
    feel = Feel(touch=Touch(second=0.8, weaker=0.9), take=2)
    found = measured(played(doubles(16), feel)).feel
    again = perform(doubles().changed(feel=found)).velocity
    snare = np.array([h.voice == "snare" for h in doubles().pattern.hits])
    wanted = perform(doubles().changed(feel=feel)).velocity
    assert np.abs(again[snare].astype(float) - wanted[snare]).max() <= 3


def test_where_no_hand_is_named_or_nothing_differs_both_are_alike() -> None:
    loose = Feel(loose_ms=4.0, wander=Wander(velocity=5.0))
    unnamed = measured(played(doubles(16, limbs=False), replace(loose, touch=Touch(weaker=0.8)))).feel.touch
    assert unnamed.second == unnamed.weaker == 1
    false = 0
    for take in range(15):
        touch = measured(played(doubles(8), replace(loose, take=take))).feel.touch
        false += touch.second != 1 or touch.weaker != 1
    assert false <= 1


def test_a_hand_that_plays_the_hat_alone_plays_no_doubles() -> None:
    groove = parse_grid("tempo 120\nhat_closed x-x-x-x-x-x-x-x-\nsnare ----x-------x---\n")
    level = perform(groove.changed(feel=Feel(touch=Touch(second=0.5)))).velocity
    assert set(level.tolist()) == {72}


@pytest.mark.parametrize(("percent", "bars"), [(2.0, 4), (3.0, 8), (-2.0, 4)])
def test_a_push_into_the_end_of_phrases_is_found_again(percent: float, bars: int) -> None:
    for take in range(4):
        feel = Feel(loose_ms=4.0, take=take, wander=Wander(push_percent=percent, phrase_bars=bars))
        wander = measured(played(doubles(33), feel)).feel.wander
        assert wander.phrase_bars == bars and wander.push_percent == pytest.approx(percent, rel=0.4)


def test_a_tempo_that_was_followed_shows_the_push_too() -> None:
    groove = doubles(25)
    frame = groove.pattern.frame
    bpm = [100.0 * (1.02 if k % 4 == 3 else 1 / 1.02 if k % 4 == 0 and k else 1.0) for k in range(25)]
    tempo = TempoMap.of([(frame.start_of(k + 1), b, b) for k, b in enumerate(bpm)])
    wander = measured(groove.changed(tempo=tempo)).feel.wander
    assert wander.phrase_bars == 4 and wander.push_percent > 1


def test_without_a_push_none_is_told() -> None:
    false = sum(
        measured(played(doubles(33), Feel(loose_ms=5.0, take=take))).feel.wander.push_percent != 0 for take in range(12)
    )
    assert false <= 1


def test_hands_and_pushes_are_told_in_words() -> None:
    feel = Feel(touch=Touch(second=0.8, weaker=0.9), wander=Wander(push_percent=-1.5, phrase_bars=8))
    told = feel_lines(feel)
    assert "Second strokes of doubles have 80 % of the first ones." in told
    assert "The left hand has 90 % of the other one." in told
    assert "It loses 1.5 % into the end of every 8 bars." in told


def test_doubles_of_one_hand_alone_do_not_make_it_the_weaker_one() -> None:
    groove = doubles(16)
    sticking = "RLLRLRLLRLLRLRLL"  # only the left hand doubles
    hits = tuple(
        replace(h, limb=sticking[h.position_ticks // 5040 % 16]) if h.voice == "snare" else h
        for h in groove.pattern.hits
    )
    feel = Feel(loose_ms=3.0, touch=Touch(second=0.7), wander=Wander(velocity=4.0))
    found = measured(played(groove.changed(hits=hits), feel)).feel.touch
    assert found.second == pytest.approx(0.7, abs=0.05) and found.weaker > 0.96


def test_a_push_is_not_taken_for_looseness() -> None:
    feel = Feel(loose_ms=2.0, wander=Wander(push_percent=4.0))
    found = measured(played(doubles(33), feel)).feel
    assert found.wander.push_percent == pytest.approx(4.0, abs=0.8)
    assert found.loose_ms < 3.0 and all(abs(ms) < 1.5 for ms in found.lean_ms.values())
