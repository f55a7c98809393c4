"""Rim shots are told where a snare plainly has two kinds of strokes, and nowhere else."""

from dataclasses import replace

import numpy as np
import pytest

from ghoststep.feel.perform import perform
from ghoststep.files.textgrid import parse_grid
from ghoststep.listen.strokes.hearing import prepared
from ghoststep.listen.strokes.rim_shots import upper_kind, with_rim_shots
from ghoststep.listen.way import hear_groove
from ghoststep.music.groove import Groove
from ghoststep.music.kit import STROKE_INDEX, VOICE_INDEX
from ghoststep.music.performance import Performance
from ghoststep.sound.render import render
from ghoststep.sound.sketch import sketch_kit

BEAT = """tempo 104
hat_closed x-x-x-x-x-x-x-x- | x-x-x-x-x-x-x-x- | x-x-x-x-x-x-x-x- | x-x-x-x-x-x-x-x-
snare      ----X--o----X--- | ----X--o----X--- | ----X--o----X--- | ----X--o----X---
kick       X-------X-X----- | X-------X-X----- | X-------X-X----- | X-------X-X-----
"""


def struck(groove: Groove, stroke: str, every: int) -> Groove:
    """The groove with every so-manieth loud snare struck so."""
    loud = [h for h in groove.pattern.hits if h.voice == "snare" and h.velocity > 60]
    chosen = {h.position_ticks for h in loud[::every]}
    hits = (
        replace(h, stroke=stroke) if h.voice == "snare" and h.position_ticks in chosen else h
        for h in groove.pattern.hits
    )
    return groove.changed(hits=tuple(hits))


def loud_snares(groove: Groove) -> list[str]:
    return [h.stroke for h in groove.pattern.hits if h.voice == "snare" and h.velocity > 60]


@pytest.mark.parametrize("every", [2, 4])
def test_rim_shots_are_told_from_plain_strokes(every: int) -> None:
    groove, kit = struck(parse_grid(BEAT), "rim", every), sketch_kit()
    _, explained = hear_groove(render(perform(groove), kit), kit.rate)
    assert loud_snares(explained.groove) == loud_snares(groove)


def test_a_snare_that_is_struck_in_one_way_is_told_as_plain() -> None:
    kit = sketch_kit()
    for stroke in ("plain", "rim"):
        groove = struck(parse_grid(BEAT), stroke, 1)
        _, explained = hear_groove(render(perform(groove), kit), kit.rate)
        assert set(loud_snares(explained.groove)) == {"plain"}, stroke


def test_brightness_without_a_body_is_no_rim_shot() -> None:
    """Half of the strokes have lost their body, as a stick across the rim that was taken for a snare."""
    groove, kit = parse_grid(BEAT), sketch_kit()
    played = perform(groove).ordered()
    rim = played.stroke.copy()
    loud = np.flatnonzero((played.velocity > 60) & (played.voice == VOICE_INDEX["snare"]))
    rim[loud[::2]] = STROKE_INDEX["rim"]
    both = prepared(render(replace(played, stroke=rim), kit), kit.rate)
    plain = Performance.of(played.onset_s, played.voice, played.velocity, length_s=played.length_s)
    assert (with_rim_shots(plain, both).stroke == rim).all()
    spectrum = np.fft.rfft(both)
    spectrum[np.fft.rfftfreq(len(both), 1 / 44100) < 500] *= 0.1
    quiet = np.fft.irfft(spectrum, len(both)).astype(np.float32)
    mixed = both.copy()
    for at in played.onset_s[loud[::2]]:
        a = round(at * 44100) - 200
        mixed[max(a, 0) : a + 6000] = quiet[max(a, 0) : a + 6000]
    assert not with_rim_shots(plain, mixed).stroke.any()


def test_two_kinds_lie_far_apart_against_what_each_of_them_varies_by() -> None:
    far = np.array([-20.0, -3.0, -19.0, -21.0, -4.0])
    assert upper_kind(far).tolist() == [False, True, False, False, True]
    assert not upper_kind(np.array([-20.0, -16.0, -12.0, -8.0])).any()  # evenly spread
    assert not upper_kind(np.array([-20.0, -20.0, -20.0, -3.0])).any()  # one alone may be anything
    assert not upper_kind(np.array([-30.0, -20.0, -12.0, -2.0])).any()  # as far apart within as between
    assert not upper_kind(np.zeros(0)).any()
