"""How far a hat is open shows in how it dies away, against the other hats of the file."""

import numpy as np
import pytest
from tests.listen.made_heard import HAT, SNARE, after_rule, heard_of

from ghoststep.listen.signal.spectrum import LISTEN_RATE
from ghoststep.listen.strokes.network import likeliest_voices
from ghoststep.listen.strokes.rules.openness import ClosedHats, falls_db
from ghoststep.music.kit import VOICE_INDEX, VOICES

RNG = np.random.default_rng(4)
LETTERS = {"C": "hat_closed", "H": "hat_half", "O": "hat_open", "P": "hat_pedal"}


def bursts(fall_db: list[float], gap_s: float) -> np.ndarray:
    """Noise that begins at each step and falls by so many dB in 48 ms."""
    out = 1e-5 * RNG.standard_normal(round((len(fall_db) + 1) * gap_s * LISTEN_RATE) + LISTEN_RATE // 2)
    t = np.arange(round(0.4 * LISTEN_RATE)) / LISTEN_RATE
    for i, db in enumerate(fall_db):
        at = round((0.1 + i * gap_s) * LISTEN_RATE)
        out[at : at + len(t)] += 0.2 * RNG.standard_normal(len(t)) * 10 ** (-db * t / 0.048 / 20)
    return out.astype(np.float32)


def after(told: str, fall_db: list[float], *, gap_s: float = 0.25, snares: str = "") -> str:
    """What each hat is after its fall was looked at; `snares` has an S where one is struck with it."""
    strokes = [{HAT: 3.0, SNARE: 4.0} if s == "S" else {HAT: 3.0} for s in snares.ljust(len(told))]
    heard = heard_of(strokes, ["open hat"] * len(told))
    heard.voice_odds[:] = -4.0
    for row, letter in zip(heard.voice_odds, told, strict=True):
        row[VOICE_INDEX[LETTERS[letter]]] = 2.0
    found = after_rule(ClosedHats(), heard, 0.1 + gap_s * np.arange(len(told)), sound=bursts(fall_db, gap_s))
    names = {VOICE_INDEX[name]: letter for letter, name in LETTERS.items()}
    assert all(VOICES[v].group == "hat" for v in names)
    return "".join(names[v] for v in likeliest_voices(found, "hat"))


def test_a_fall_is_measured_in_db() -> None:
    found = falls_db(bursts([0, 6, 12, 24], 0.5), 0.1 + 0.5 * np.arange(4))
    assert found == pytest.approx([0, 6, 12, 24], abs=3) and (np.diff(found) > 3).all()
    assert len(falls_db(bursts([6], 0.5), np.zeros(0))) == 0


@pytest.mark.parametrize("told", ["H", "O"])
def test_hats_that_die_away_are_closed_where_none_is_tighter(told: str) -> None:
    assert after(told * 6, [12.0] * 6) == "C" * 6
    assert after("CC" + told * 6, [40.0] * 2 + [12.0] * 6) == "C" * 8  # two are too few to say what closed ones are


def test_hats_that_ring_stay_open() -> None:
    assert after("HHHOOO", [3.0] * 6) == "HHHOOO"
    assert after("HHHHHH", [12.0, 12.0, 3.0, 12.0, 3.0, 12.0]) == "CCHCHC"  # each for itself


def test_where_other_hats_are_tighter_by_far_half_open_ones_stay() -> None:
    assert after("CCCCHHH", [40.0] * 4 + [12.0] * 3) == "CCCCHHH"
    assert after("CCCCHHH", [14.0] * 4 + [12.0] * 3) == "CCCCCCC"


def test_what_cannot_be_measured_goes_with_the_others() -> None:
    assert after("HHHHHH", [12.0] * 6, snares=" S  S ") == "CCCCCC"
    assert after("HHHHHH", [12.0, 12.0, 3.0, 3.0, 3.0, 3.0], snares=" S  S ") == "CHHHHH"
    assert after("HHHH", [12.0] * 4, snares="SS S") == "HHCH"  # one says nothing for the others
    assert after("HHHHHH", [12.0] * 6, gap_s=0.07) == "HHHHHC"  # nor do strokes that follow each other so fast


def test_pedals_and_silence_stay() -> None:
    assert after("PPPP", [12.0] * 4) == "PPPP"
    heard = heard_of([{HAT: 3.0}] * 4, ["open hat"] * 4)
    heard.voice_odds[:, VOICE_INDEX["hat_half"]] = 2.0
    found = after_rule(ClosedHats(), heard, np.arange(4.0), sound=np.zeros(5 * LISTEN_RATE, np.float32))
    assert np.array_equal(found.voice_odds, heard.voice_odds)
