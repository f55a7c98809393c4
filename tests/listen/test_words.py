"""What is heard, in plain words."""

from dataclasses import replace

import pytest

from ghoststep.files.textgrid import parse_grid
from ghoststep.listen.bars.explain import Explained, TempoReading
from ghoststep.listen.bars.reading import near_readings
from ghoststep.listen.words import ghost_words, lean_words, near_words, summary, swing_words, tempo_words
from ghoststep.music.feel import Feel, Swing
from ghoststep.music.meter import Meter
from ghoststep.music.time import TempoMap

GRID = "tempo 92\nsnare ----X--o-o--X--o\nkick X---x---X-------\nhat_closed x-x-x-x-x-x-x-x-"


def explained(**fields: object) -> Explained:
    groove = parse_grid(GRID).changed(**fields)
    return Explained(
        groove, 0.2, tuple(range(len(groove.pattern.hits))), 0.006, {}, (TempoReading(92.0, Meter(), 0.9),)
    )


@pytest.mark.parametrize(
    ("ratio", "words"),
    [
        (0.5, "straight"),
        (0.52, "sixteenths at 52 % ± 0.6 (a light swing)"),
        (0.57, "sixteenths at 57 % ± 0.6 (between straight and shuffled)"),
        (0.66, "sixteenths at 66 % ± 0.6 (shuffled)"),
    ],
)
def test_swing_has_words_for_the_wide_middle(ratio: float, words: str) -> None:
    assert swing_words(explained(feel=Feel(Swing(16, ratio)))) == words


def test_eighths_are_named() -> None:
    assert swing_words(explained(feel=Feel(Swing(8, 0.64)))).startswith("eighths at 64 %")


def test_one_tempo_or_its_course() -> None:
    assert tempo_words(explained()) == "92.0 BPM"
    moving = TempoMap((0, 20160), (101.0, 97.04))
    assert tempo_words(explained(tempo=moving)) == "101.0 to 97.0 BPM"


@pytest.mark.parametrize(
    ("lean", "words"),
    [
        ({}, "everything on the pulse"),
        ({"snare": 1.4}, "everything on the pulse"),
        ({"snare": 11.0}, "snare 11 ms late against own pulse"),
        ({"hat": -4.2}, "hats 4 ms early against own pulse"),
    ],
)
def test_leans_worth_words(lean: dict[str, float], words: str) -> None:
    assert lean_words(explained(feel=Feel(lean_ms=lean))) == words


def test_ghosts_are_named_by_their_spots() -> None:
    assert ghost_words(explained()) == "ghosts on 2a, 3e, 4a"
    bare = explained()
    loud = tuple(h for h in bare.groove.pattern.hits if h.voice != "snare")
    assert ghost_words(replace(bare, groove=bare.groove.changed(hits=loud))) == "no ghost strokes"


def test_the_sentence_holds_it_all() -> None:
    words = summary(explained(feel=Feel(Swing(16, 0.57), {"snare": 11.0})))
    assert words.startswith("92.0 BPM, 4/4, 1 bar, sixteenths at 57 %") and words.endswith("ghosts on 2a, 3e, 4a.")


def test_readings_that_are_nearly_as_likely_are_told_with_their_shares() -> None:
    first = TempoReading(204.0, Meter(6, 8), 0.41)
    near = TempoReading(204.0, Meter(12, 8), 0.39)
    far = TempoReading(136.0, Meter(4, 4), 0.09)
    assert near_readings((first, near, far)) == (near,)
    assert near_words((first, near, far)) == "12/8 3+3+3+3 at 204 BPM (39 % against 41 %)"
    # Bars of two in what is counted in four are another way to write it, and nothing to decide.
    assert near_readings((TempoReading(96.0, Meter(4, 4), 0.5), TempoReading(96.0, Meter(2, 4), 0.4))) == ()
    assert near_words(()) == ""
