"""The code by which readings of bars are judged: what repeats costs little, whatever the meter."""

from collections.abc import Sequence

import numpy as np
import pytest

from ghoststep.feel.perform import perform
from ghoststep.files.textgrid import parse_grid
from ghoststep.listen.bars.bar_code import scores as scores_of
from ghoststep.listen.bars.explain import explain
from ghoststep.listen.bars.struck import Struck
from ghoststep.listen.bars.usual import CLASSES
from ghoststep.music.meter import Meter

KICK, SNARE, HAT, CRASH = (CLASSES.index(n) for n in ("kick", "snare", "hat", "crash"))


def scores(
    struck: np.ndarray, meter: Meter, per_quarter: int, shifts: Sequence[int], weight: float = 1.0
) -> np.ndarray:
    return scores_of(Struck(struck), [(meter, per_quarter, np.array(shifts))], weight)[0]


def laid(bars: list[dict[int, str]]) -> np.ndarray:
    """Bars of text, a character a step, as hits by class."""
    width = sum(len(next(iter(bar.values()))) for bar in bars)
    out, at = np.zeros((len(CLASSES), width), bool), 0
    for bar in bars:
        length = len(next(iter(bar.values())))
        for c, text in bar.items():
            out[c, at : at + length] = [t != "-" for t in text]
        at += length
    return out


ROCK = {KICK: "x-----xx--x-----", SNARE: "----x-------x---", HAT: "x-x-x-x-x-x-x-x-"}


def test_the_bar_line_is_where_kick_and_backbeat_say() -> None:
    found = scores(laid([ROCK] * 4), Meter(4, 4), 4, range(16))
    assert found.shape == (16,) and found.argmax() == 0 and found[0] > np.sort(found)[-2] + 5


def test_one_bar_that_comes_again_costs_less_than_bars_that_differ() -> None:
    dice = np.random.default_rng(1)
    other = [{**ROCK, KICK: "".join("x" if dice.random() < 0.25 else "-" for _ in range(16))} for _ in range(4)]
    assert scores(laid([ROCK] * 4), Meter(4, 4), 4, [0])[0] > scores(laid(other), Meter(4, 4), 4, [0])[0] + 5


def test_bars_that_answer_each_other_are_a_repeat_of_two() -> None:
    one, two = {KICK: "x--x--x---x-x---", HAT: "x-x-x-x-x-x-x-x-"}, {KICK: "xx---x----x--x-x", HAT: "x-x-x-x-x-x-x-x-"}
    paired, mixed = laid([one, two] * 4), laid([one, one, two, one, two, two, one, two])
    assert scores(paired, Meter(4, 4), 4, [0])[0] > scores(mixed, Meter(4, 4), 4, [0])[0] + 25


def test_a_fill_costs_its_own_bar_and_no_more() -> None:
    fill = {KICK: "x---x---x---x---", SNARE: "xx-xxx-xxx-xxxxx", HAT: "----------------"}
    plain, filled = (scores(laid(bars), Meter(4, 4), 4, [0])[0] for bars in ([ROCK] * 8, [ROCK] * 7 + [fill]))
    assert plain - 75 < filled < plain - 10


def test_one_backbeat_in_seven_quarters_stands_in_their_middle() -> None:
    """Beside the school that puts one on every second quarter."""
    once = [
        {KICK: "x---------------------------", SNARE: "".join("x" if i == 4 * at else "-" for i in range(28))}
        for at in range(1, 7)
    ]
    found = [scores(laid([bar] * 4), Meter(7, 4), 4, [0])[0] for bar in once]
    assert int(np.argmax(found)) + 1 == 4


def test_a_class_that_is_never_struck_says_nothing_of_the_length_of_bars() -> None:
    """Else long bars were worse for every drum that a kit lacks."""
    hats = laid([{HAT: "x-" * 88}])
    found = [scores(hats, meter, 4, [0])[0] for meter in (Meter(4, 4), Meter(11, 4, (4, 4, 3)))]
    assert found[0] == pytest.approx(found[1], abs=3)


def test_what_is_looked_up_is_what_is_worked_out() -> None:
    bars = laid([ROCK] * 5)
    told, worked = scores(bars, Meter(4, 4), 4, range(16)), scores(bars, Meter(4, 4), 4, range(16), 1 - 1e-9)
    assert np.abs(told - worked).max() < 0.02
    half = scores(bars, Meter(4, 4), 4, range(16), 0.5)
    assert (half > told).all() and half.argmax() == 0


def test_each_of_several_readings_scores_as_it_does_alone() -> None:
    bars = laid([ROCK] * 5)
    asked = [(Meter(4, 4), 4, range(16)), (Meter(3, 4), 4, [1, 7]), (Meter(7, 8), 2, [0]), (Meter(12, 8), 4, range(24))]
    together = scores_of(Struck(bars), [(meter, per, np.array(shifts)) for meter, per, shifts in asked])
    for (meter, per_quarter, shifts), found in zip(asked, together, strict=True):
        assert found == pytest.approx(scores(bars, meter, per_quarter, shifts), abs=1e-6)
    assert scores_of(Struck(bars), []) == []


def test_hits_come_again_after_so_many_steps_or_never() -> None:
    struck = Struck(laid([{KICK: "x---x---"}, {KICK: "x---x-x-"}]))
    assert struck.likeness(8) == pytest.approx(2 * 2 / 5) and struck.likeness(16) == struck.likeness(20) == 0


def test_steps_of_a_round_that_is_not_full_come_less_often() -> None:
    hits, times = Struck(laid([{KICK: "x---x---xx"}])).folded(4)
    assert hits.tolist() == [[3, 1, 0, 0]] and times.tolist() == [3, 3, 2, 2]


def test_what_is_copied_has_to_be_written_once() -> None:
    """The first bar costs as much as it does alone, less what all may be learnt from."""
    odd = {KICK: "xxx-xx-x-xx-x-xx", SNARE: "-xx-x-xxx--xx-xx"}
    once, often = (scores(laid([odd] * bars), Meter(4, 4), 4, [0])[0] for bars in (1, 6))
    assert often < once


@pytest.mark.parametrize(
    ("text", "meter", "bpm"),
    [
        ("tempo 118\nmeter 7/4\ngrid 8\nhat_closed xxxxxxxxxxxxxx | xxxxxxxxxxxxxx | xxxxxxxxxxxxxx | xxxxxxxxxxxxxx\n"
         "snare --X---X---X--- | --X---X---X-oo | --X---X---X--- | --X---X---X-oo\n"
         "kick X---X---X--xX- | X--xX----X--X- | X---X---X--xX- | X--xX----X--X-", Meter(7, 4), 118),
        ("tempo 96\nmeter 11/4 4+4+3\ngrid 4\nride xxxxxxxxxxx | xxxxxxxxxxx | xxxxxxxxxxx | xxxxxxxxxxx\n"
         "snare ----X------ | ----X------ | ----X------ | ----X------\n"
         "kick X--x--X-x-- | X-x---X---x | X--x--X-x-- | X-x---X---x", Meter(11, 4), 96),
        ("tempo 74\nmeter 4/4\ngrid 16\nhat_closed xxxxxxxxxxxxxxxx | xxxxxxxxxxxxxxxx | xxxxxxxxxxxxxxxx\n"
         "snare ----X-------X--- | ----X-------X--- | ----X-------X---\n"
         "kick X-----x-x------- | X---------x----- | X-----x-x-------", Meter(4, 4), 74),
    ],
    ids=["pairs of seven", "one backbeat in eleven", "backbeats on two and four, not half of a fast bar"],
)  # fmt: skip
def test_bars_are_counted_as_people_would(text: str, meter: Meter, bpm: float) -> None:
    found = explain(perform(parse_grid(text))).groove
    counted = found.pattern.meter.numerator, found.pattern.meter.denominator
    assert counted == (meter.numerator, meter.denominator) and found.tempo.main_bpm == pytest.approx(bpm, rel=0.01)
