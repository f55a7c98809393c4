"""Pedal hats among hats of the hand are hats of the hand."""

import numpy as np
import pytest
from tests.listen.made_heard import CYMBALS, HAT, heard_of

from ghoststep.listen.foot import with_hats_of_the_hand
from ghoststep.listen.hearing import LIMITS
from ghoststep.listen.voicenet import likeliest_voices
from ghoststep.music.kit import VOICE_INDEX, VOICES

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
    found = with_hats_of_the_hand(heard, STEP_S * np.arange(len(told)), LIMITS)
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
