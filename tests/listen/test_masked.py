"""A hat under a loud snare is no louder than the louder hats that are heard alone."""

from ghoststep.listen.strokes.masked import hats_as_alone
from ghoststep.listen.strokes.strokes import Stroke
from ghoststep.music.kit import VOICE_INDEX

HAT, SNARE, PEDAL = (VOICE_INDEX[name] for name in ("hat_closed", "snare", "hat_pedal"))


EIGHTS = (70, 60, 70, 60, 70, 60, 70, 60)


def beat(under: int = 96, *, snare: int = 104, alone: tuple[int, ...] = EIGHTS) -> list[Stroke]:
    """Hats, of which two more come under a snare each."""
    out = [Stroke(0.3 * k, HAT, velocity, 0.9) for k, velocity in enumerate(alone)]
    for second in (5.0, 6.0):
        out += [Stroke(second, HAT, under, 0.9), Stroke(second + 0.01, SNARE, snare, 0.9)]
    return out


def hats(strokes: list[Stroke]) -> list[int]:
    return [s.velocity for s in strokes if s.voice == HAT]


def test_a_hat_under_a_loud_snare_is_no_louder_than_the_louder_ones_alone() -> None:
    found = hats_as_alone(beat())
    assert hats(found) == [*EIGHTS, 70, 70]
    assert [s.velocity for s in found if s.voice == SNARE] == [104, 104]


def test_softer_hats_hats_under_ghosts_and_few_hats_are_as_they_were() -> None:
    for strokes in (beat(50), beat(snare=20), beat(alone=(70, 60, 70)), beat(alone=(120,) * 8)):
        assert hats_as_alone(strokes) == strokes


def test_feet_are_no_hats_of_the_hand() -> None:
    strokes = [*beat(), Stroke(6.02, PEDAL, 110, 0.9)]
    assert hats_as_alone(strokes)[-1].velocity == 110
