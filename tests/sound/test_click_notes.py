"""The click: which notes it gives, how loud, by the grouping, bars of silence in it."""

import numpy as np
import pytest

from ghoststep.files.textgrid import parse_grid
from ghoststep.music.errors import InputError
from ghoststep.sound.click import Click, clicks, count_in
from ghoststep.sound.program import Wish, program
from ghoststep.sound.sketch import sketch_kit

RATE = 8000


def struck(text: str, click: Click, bars: int = 1) -> list[tuple[float, float]]:
    """Moments in counted beats at 60 BPM, and the peak of each click."""
    groove = parse_grid(f"tempo 60\n{text}")
    length = round(groove.length_s * RATE)
    sound = np.abs(clicks(groove, (0, groove.pattern.length_ticks), 1.0, RATE, length, click)[:, 0])
    starts = [i for i in np.flatnonzero(sound > 1e-3) if not sound[max(0, i - 200) : i].any()]
    return [(round(i / RATE, 2), float(sound[i : i + 200].max())) for i in starts]


FOUR = "kick X---------------"


@pytest.mark.parametrize(
    ("notes", "wanted"),
    [
        ("beat", [0, 1, 2, 3]), ("half", [0, 2]), ("backbeat", [1, 3]), ("eighth", [n / 2 for n in range(8)]),
        ("sixteenth", [n / 4 for n in range(16)]), ("triplet", [round(n / 3, 2) for n in range(12)]),
    ],
)  # fmt: skip
def test_notes_of_the_click(notes: str, wanted: list[float]) -> None:
    assert [t for t, _ in struck(FOUR, Click(notes))] == pytest.approx(wanted, abs=0.011)


def test_what_lies_between_is_softer_and_the_level_is_set() -> None:
    found = struck(FOUR, Click("eighth"))
    assert found[1][1] < 0.7 * found[2][1]
    louder = struck(FOUR, Click("beat", level_db=6.0))
    assert louder[1][1] / struck(FOUR, Click())[1][1] == pytest.approx(2.0, rel=0.01)


def test_groups_are_heard_in_odd_meters() -> None:
    groove = parse_grid("tempo 60\nmeter 7/8 2+2+3\nkick X-------------")
    sound = clicks(groove, (0, groove.pattern.length_ticks), 1.0, 44100, round(groove.length_s * 44100), Click())[:, 0]
    hz = []
    for n in range(7):
        part = sound[round(n * 44100 / 2) :][:1200]
        hz.append(int(np.argmax(np.abs(np.fft.rfft(part, 44100)))))
    assert [round(h, -2) for h in hz] == [2100, 1500, 1800, 1500, 1800, 1500, 1500]


def test_bars_of_silence_go_on_from_pass_to_pass() -> None:
    click = Click(sounding=2, silent=1)
    assert [click.sounds_in(n) for n in range(6)] == [True, True, False, True, True, False]
    two = parse_grid("tempo 120\nkick ---------------- | ----------------")
    sound = program(two, sketch_kit(RATE), Wish(click=True, click_kind=click))
    assert len(sound.passes) == 3
    bar = len(sound.samples) // 6
    loud = [bool(np.abs(sound.samples[n * bar : (n + 1) * bar]).max() > 0.01) for n in range(6)]
    assert loud == [True, True, False, True, True, False]


def test_the_count_in_is_a_whole_bar_whatever_the_click_leaves_out() -> None:
    groove = parse_grid("tempo 60\nkick X---------------")
    sound = count_in(groove, (0, 1), 1.0, RATE, Click("backbeat"))[:, 0]
    assert len(sound) == 4 * RATE and all(np.abs(sound[n * RATE :][:200]).max() > 0.1 for n in range(4))


@pytest.mark.parametrize("fields", [{"notes": "fifth"}, {"level_db": 40.0}, {"sounding": 0}, {"silent": 99}])
def test_what_no_click_is_is_said(fields: dict[str, object]) -> None:
    with pytest.raises(InputError):
        Click(**fields)  # type: ignore[arg-type]
