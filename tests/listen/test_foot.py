"""Pedal hats among hats of the hand are hats of the hand."""

import numpy as np
import pytest
import soundfile
from tests.listen.made_heard import CYMBALS, HAT, KICK, SNARE, after_rule, heard_of

from ghoststep.files.demo import demo_recordings
from ghoststep.listen.strokes.network import likeliest_voices, odds_of
from ghoststep.listen.strokes.rules.foot import DoubtfulFeet, FeetOnBackbeats, HatsOfTheHand
from ghoststep.listen.way import hear_groove
from ghoststep.music.kit import VOICE_INDEX, VOICES
from ghoststep.music.time import TICKS_PER_QUARTER

STEP_S = 0.29  # so that four steps lie near


def names(told: str, odds: float = 3.0) -> str:
    """A letter a stroke, before and after: hats Closed, Open or of the Pedal, R for a ride, with the Foot under it."""
    strokes = [{"R": {CYMBALS: 4.0}, "F": {CYMBALS: 4.0, HAT: odds}}.get(s, {HAT: odds}) for s in told]
    heard = heard_of(strokes, ["ride"] * len(told))
    heard.voice_odds[:] = -4.0
    for row, letter in zip(heard.voice_odds, told, strict=True):
        voice = {"C": "hat_closed", "O": "hat_open"}.get(letter, "hat_pedal")
        row[VOICE_INDEX[voice]] = 2.0
        row[VOICE_INDEX["hat_closed"]] = max(row[VOICE_INDEX["hat_closed"]], 1.0)
    found = after_rule(HatsOfTheHand(), heard, STEP_S * np.arange(len(told)))
    after = [VOICES[v].name for v in likeliest_voices(found, "hat")]
    return "".join(
        s if s in "RF" and a == "hat_pedal" else {"hat_closed": "C", "hat_open": "O", "hat_pedal": "P"}[a]
        for s, a in zip(told, after, strict=True)
    )


@pytest.mark.parametrize(
    ("told", "after"),
    [
        ("CCPCCCPC", "CCCCCCCC"),  # among hats of the hand
        ("RRFRRRFR", "RRFRRRFR"),  # under a ride
        ("PPPPPPPP", "PPPPPPPP"),  # nothing but the foot
        ("CCOPCCCC", "CCOPCCCC"),  # it closes an open hat
        ("OOPOOOPO", "OOCOOOCO"),  # hats that are open throughout are closed by nobody
        ("PCPPPPPP", "PCPPPPPP"),  # one stroke is no hand that plays
        ("PCPPPPPPPPPPC", "PCPPPPPPPPPPC"),  # nor are two far from each other
        ("RCRRFRRCR", "RCRRFRRCR"),  # more of the ride than of the hats
        ("PPPPPPPPPPCCCC", "PPPPPPPCCCCCCC"),  # what is near hats of the hand only
        ("CCCC" + "R" * 8 + "FRRF", "CCCC" + "R" * 8 + "FRRF"),  # hats of an earlier part
    ],
)
def test_the_foot_plays_where_the_hand_does_not(told: str, after: str) -> None:
    assert names(told) == after


def test_what_is_not_told_stays() -> None:
    assert names("CCPCCCPC", odds=-1.6) == "CCPCCCPC"


@pytest.mark.parametrize(
    ("chance", "besides", "stays"),
    [
        (0.3, {CYMBALS: 4.0, KICK: 4.0}, False),  # a ride's attack with a kick's
        (0.3, {CYMBALS: 4.0}, False),  # or by itself
        (0.5, {CYMBALS: 4.0, KICK: 4.0}, True),  # surer than that
        (0.3, {CYMBALS: 4.0, SNARE: 4.0}, True),  # a backbeat masks the foot
        (0.3, {KICK: 4.0}, True),  # no cymbal that it could be of
        (0.3, {CYMBALS: 0.0, KICK: 4.0}, True),  # a cymbal that is not told
    ],
)
def test_a_foot_under_a_cymbal_needs_better_odds(chance: float, besides: dict[int, float], stays: bool) -> None:
    heard = heard_of([{HAT: float(odds_of(chance)), **besides}], ["ride"])
    heard.voice_odds[:, VOICE_INDEX["hat_pedal"]] = 2.0
    found = after_rule(DoubtfulFeet(), heard)
    assert (found.group_odds[0, HAT] == heard.group_odds[0, HAT]) == stays
    by_hand = heard_of([{HAT: float(odds_of(chance)), **besides}], ["ride"])
    by_hand.voice_odds[:, VOICE_INDEX["hat_closed"]] = 2.0
    assert np.array_equal(after_rule(DoubtfulFeet(), by_hand).group_odds, by_hand.group_odds)


@pytest.mark.parametrize(
    ("odds", "besides", "hats", "voice", "told"),
    [
        ((-1.2, -1.8, -1.5, -1.4), CYMBALS, 0, "hat_pedal", "FFFF"),  # together they speak for a foot
        ((-2.2, -1.8, -1.9, -2.0), CYMBALS, 0, "hat_pedal", "...."),  # together they do not
        ((-1.0, -1.0, -1.2, -3.0), CYMBALS, 0, "hat_pedal", "FFF."),  # one is too poor by itself
        ((-0.5, -1.0), CYMBALS, 0, "hat_pedal", ".."),  # two say too little
        ((-1.2, -1.8, -1.5, -1.4), KICK, 0, "hat_pedal", "...."),  # no ride
        ((-1.2, -1.8, -1.5, -1.4), CYMBALS, 9, "hat_pedal", "...."),  # the hand is on the hats, and has crashes
        ((-1.2, -1.8, -1.5, -1.4), CYMBALS, 0, "hat_closed", "...."),  # not as a foot closes them
    ],
)
def test_backbeats_of_a_ride_speak_together_for_a_foot(
    odds: tuple[float, ...], besides: int, hats: int, voice: str, told: str
) -> None:
    backbeats = [{HAT: one, SNARE: 4.0, besides: 4.0} for one in odds]
    heard = heard_of([*backbeats, *[{besides: 4.0}] * 4, *[{HAT: 3.0}] * hats], ["ride"])
    heard.voice_odds[:, VOICE_INDEX[voice]] = 2.0
    found = after_rule(FeetOnBackbeats(), heard).group_odds
    assert "".join("F" if x == 0 else "." for x in found[: len(odds), HAT]) == told
    assert np.array_equal(found[len(odds) :], heard.group_odds[len(odds) :])


def test_the_foot_of_the_demo_is_heard_on_two_and_four() -> None:
    """Under the ride's attack with a kick, on 1, it is not."""
    sound, rate = soundfile.read(next(f for f in demo_recordings() if f.stem == "last-tram"), dtype="float32")
    _, explained = hear_groove(sound, rate)
    hits = explained.groove.pattern.hits
    feet = {h.position_ticks % explained.groove.pattern.meter.bar_ticks for h in hits if h.voice == "hat_pedal"}
    assert feet == {TICKS_PER_QUARTER, 3 * TICKS_PER_QUARTER}
