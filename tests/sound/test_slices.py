"""A recording cut at its hits and played anew: it gives itself back, at other tempi the attacks keep their time."""

import numpy as np
import pytest

from ghoststep.feel.perform import perform
from ghoststep.files.textgrid import parse_grid
from ghoststep.music.kit import VOICES
from ghoststep.sound.render import render
from ghoststep.sound.sketch import sketch_kit
from ghoststep.sound.slices import Slice, Struck, chosen, cut, replayed, together

RATE = 44100
BEAT = "tempo 100\nhat_closed x-x-x-x-x-x-x-x-\nsnare ----X-------X--o\nkick X-----x-X-------\n"


@pytest.fixture(scope="module")
def recorded() -> tuple[np.ndarray, list[Struck]]:
    played = perform(parse_grid(BEAT)).ordered()
    sound = render(played, sketch_kit(RATE), lead_s=0.2)
    names = [VOICES[v].name for v in played.voice]
    return sound, together((played.onset_s + 0.2).tolist(), names, played.velocity.tolist())


def attacks_s(sound: np.ndarray, moments_s: list[float]) -> list[float]:
    """How far the loudest rise near each moment is from it."""
    level = np.abs(sound).max(axis=1)
    out = []
    for moment in moments_s:
        at = round(moment * RATE)
        near = level[max(0, at - 441) : at + 441]
        out.append((max(0, at - 441) + int(np.argmax(near > 0.3 * near.max())) - at) / RATE)
    return out


def test_cuts_lie_ahead_of_hits_where_the_sound_crosses_zero(recorded: tuple[np.ndarray, list[Struck]]) -> None:
    sound, struck = recorded
    slices = cut(sound, RATE, struck)
    assert len(slices) == len(struck) == 9 and slices[-1].end == len(sound)
    for before, piece in zip([None, *slices], slices, strict=False):
        assert 0 < piece.onset - piece.start <= 0.0055 * RATE
        assert before is None or before.end == piece.start
        left, right = sound[piece.start - 1 : piece.start + 1].mean(axis=1)
        assert np.signbit(left) != np.signbit(right) or abs(right) < 1e-3


def test_a_recording_replayed_by_its_own_pieces_gives_itself_back(recorded: tuple[np.ndarray, list[Struck]]) -> None:
    sound, struck = recorded
    slices = cut(sound, RATE, struck)
    shaken = np.random.default_rng(1).uniform(-5e-5, 5e-5, len(struck))  # as far as a fit is out
    own = [Struck(s.time_s + d, s.strokes) for s, d in zip(struck, shaken, strict=True)]
    pieces = chosen(slices, own)
    assert [p.number for p in pieces] == list(range(9)) and {p.gain for p in pieces} == {1.0}
    out = replayed(sound, RATE, slices, pieces, len(sound) / RATE)
    first = slices[0].start + 4
    shift = round(own[0].time_s * RATE) - slices[0].onset
    gone = out[first + shift : -8] - sound[first : len(out) - 8 - shift]
    assert 10 * np.log10((gone**2).mean() / (sound**2).mean()) < -40


@pytest.mark.parametrize("speed", [0.5, 0.8, 1.25, 2.0])
@pytest.mark.parametrize("tied", [False, True])
def test_attacks_keep_their_time_at_other_tempi(
    recorded: tuple[np.ndarray, list[Struck]], speed: float, tied: bool
) -> None:
    sound, struck = recorded
    slices = cut(sound, RATE, struck)
    moved = [Struck(s.time_s / speed, s.strokes) for s in struck]
    pieces = chosen(slices, moved)
    out = replayed(sound, RATE, slices, pieces, len(sound) / RATE / speed, speed=speed if tied else 1.0)
    loud = [n for n, s in enumerate(struck) if s.voices & {"snare", "kick"}]
    was = attacks_s(sound, [struck[n].time_s for n in loud])
    now = attacks_s(out, [moved[n].time_s for n in loud])
    assert max(abs(a - b) for a, b in zip(was, now, strict=True)) < 0.001


def piece(number: int, *strokes: tuple[str, int]) -> Slice:
    return Slice(number * 1000, number * 1000 + 1000, number * 1000 + 100, Struck(number * 0.1, strokes))


@pytest.mark.parametrize(
    ("wanted", "number", "gain_db"),
    [
        ((("snare", 100),), 1, 0.0), ((("snare", 34),), 2, 40 * np.log10(34 / 30)), ((("kick", 100),), 0, 0.0),
        ((("snare", 100), ("hat_closed", 70)), 3, 0.0), ((("hat_open", 70),), 4, 0.0),
        ((("tom_low", 90),), 1, 40 * np.log10(90 / 100)), ((("snare", 4),), 2, -18.0),
    ],
)  # fmt: skip
def test_the_nearest_piece_is_chosen(wanted: tuple[tuple[str, int], ...], number: int, gain_db: float) -> None:
    slices = [piece(0, ("kick", 100)), piece(1, ("snare", 100)), piece(2, ("snare", 30)),
              piece(3, ("hat_closed", 70), ("snare", 100)), piece(4, ("hat_half", 70))]  # fmt: skip
    found = chosen(slices, [Struck(0.0, wanted)])[0]
    assert found.number == number
    assert 20 * np.log10(found.gain) == pytest.approx(gain_db, abs=1e-6)


def test_strokes_that_fall_together_share_a_piece() -> None:
    found = together([0.0, 0.012, 0.5, 0.004], ["kick", "hat_closed", "snare", "kick"], [90, 60, 80, 100])
    assert [s.strokes for s in found] == [(("hat_closed", 60), ("kick", 100)), (("snare", 80),)]
    assert together([], [], []) == []
