"""Something bright begins that no network knows."""

from dataclasses import replace
from functools import lru_cache

import numpy as np
import pytest
from tests.listen.made_heard import after_rule
from tests.listen.test_expected import EIGHTHS, groove, heard, time_of_hat

from ghoststep.listen.bars.explain import Explained, explain
from ghoststep.listen.signal.filters import bands
from ghoststep.listen.signal.groups import NET_GROUPS
from ghoststep.listen.strokes.hearing import LIMITS, PERHAPS, Hearing
from ghoststep.listen.strokes.network import Heard, odds_of, probability_of
from ghoststep.listen.strokes.rules.clear_starts import ClearStarts

HAT, CYMBALS = NET_GROUPS.index("hat"), NET_GROUPS.index("cymbals")
PLAYED = groove([EIGHTHS] * 4)
STEP = 6  # the eighth after beat 2, at which nothing but a hat is played
ALL_BARS = (0, 1, 2, 3)


@lru_cache(maxsize=1)
def explained() -> Explained:
    return explain(heard(PLAYED).performance)


def at(bars: tuple[int, ...], step: int = STEP) -> list[int]:
    """The candidates at a step of some bars."""
    moments = heard(PLAYED).moments_s
    return [int(np.abs(moments - time_of_hat(PLAYED, bar, step)).argmin()) for bar in bars]


def unknown(which: list[int], **odds: float) -> Hearing:
    """The hearing as if some candidates were told as nothing, with log-odds of a group where they are given."""
    first = heard(PLAYED)
    groups = first.heard.group_odds.copy()
    groups[which] = -4
    for group, value in odds.items():
        groups[which, NET_GROUPS.index(group)] = value
    return replace(first, heard=replace(first.heard, group_odds=groups))


def told(hearing: Hearing, sound: np.ndarray | None = None) -> Heard:
    own = hearing.sound
    assert own is not None
    return after_rule(
        ClearStarts(),
        hearing.heard,
        hearing.moments_s,
        sound=own if sound is None else sound,
        explained=explained(),
    )


def test_what_begins_in_every_bar_at_one_place_is_a_hat() -> None:
    which = at(ALL_BARS)
    first = unknown(which)
    found = told(first)
    assert (probability_of(found.group_odds[which, HAT]) >= LIMITS["hat"]).all()
    others = np.setdiff1d(np.arange(len(first.moments_s)), which)
    assert (found.group_odds[others] == first.heard.group_odds[others]).all()


def test_what_begins_in_one_bar_is_offered_however_often_it_is_looked_at() -> None:
    one, two = at((1,)), at((2, 3))
    first = unknown(one)
    moments = first.moments_s.copy()
    moments[[one[0] + 1, one[0] + 2]] = moments[one[0]] + np.array([0.004, 0.008])  # two more looks at it
    groups = first.heard.group_odds.copy()
    groups[[one[0] + 1, one[0] + 2]] = -4
    often = replace(first, moments_s=moments, heard=replace(first.heard, group_odds=groups))
    for hearing in (first, often):
        chance = probability_of(told(hearing).group_odds[one, HAT])
        assert PERHAPS["hat"] <= chance < LIMITS["hat"]
    assert (probability_of(told(unknown(two)).group_odds[two, HAT]) >= LIMITS["hat"]).all()


@pytest.mark.parametrize(("rise_db", "clear"), [(7.5, False), (11.0, True)])
def test_how_much_has_to_begin(rise_db: float, clear: bool) -> None:
    which = at(ALL_BARS)
    first = unknown(which)
    assert first.sound is not None
    sound = first.sound.copy()
    dice = np.random.default_rng(3)
    for moment in heard(PLAYED).moments_s[which]:
        middle = round(moment * 44100)
        noise = 0.02 * dice.standard_normal(8000)
        noise[:4000] *= 10 ** (-rise_db / 20)
        sound[middle - 4000 : middle + 4000] = noise
    assert ((told(first, sound).group_odds[which, HAT] > -4) == clear).all()


def test_what_is_likelier_a_cymbal_is_offered_as_one() -> None:
    which = at(ALL_BARS)
    found = told(unknown(which, cymbals=-1.0)).group_odds[which]
    assert (found[:, HAT] == -4).all()
    assert ((found[:, CYMBALS] >= odds_of(PERHAPS["cymbals"])) & (found[:, CYMBALS] < odds_of(LIMITS["cymbals"]))).all()
    assert (told(unknown(which, cymbals=-1.5)).group_odds[which, HAT] > -2).all()


@pytest.mark.parametrize("limits", [(2, 0.0, 1500.0), (2, 8000.0, 0.0)])
def test_what_begins_in_one_half_of_the_spectrum_is_no_metal(limits: tuple[int, float, float]) -> None:
    """Other instruments that bleed in are dark; a lisp is thin."""
    first, which = unknown(at(ALL_BARS)), at(ALL_BARS)
    assert first.sound is not None
    sound = first.sound.copy()
    (part,) = bands(bands(sound, [limits])[0], [limits])
    (part,) = bands(part, [limits])
    moments = heard(PLAYED).moments_s[which]
    for moment in moments:
        a, b = round((moment - 0.05) * 44100), round((moment + 0.1) * 44100)
        sound[a:b] = part[a:b]
    assert (told(first, sound).group_odds[which, HAT] == -4).all()


def test_what_is_far_softer_than_the_strokes_is_nothing() -> None:
    first, which = unknown(at(ALL_BARS)), at(ALL_BARS)
    assert first.sound is not None
    sound = first.sound.copy()
    for moment in heard(PLAYED).moments_s[which]:
        sound[round((moment - 0.05) * 44100) : round((moment + 0.1) * 44100)] *= 0.03
    assert (told(first, sound).group_odds[which, HAT] == -4).all()


def test_what_begins_near_a_stroke_that_is_told_is_left_to_it() -> None:
    which = at(ALL_BARS)
    first = unknown(which)
    groups = first.heard.group_odds.copy()
    beside = [i + 1 for i in which]
    moments = first.moments_s.copy()
    moments[beside] = moments[which] + 0.05
    groups[beside, HAT] = 3.0
    near = replace(first, moments_s=moments, heard=replace(first.heard, group_odds=groups))
    assert (told(near).group_odds[which, HAT] == -4).all()


def test_at_the_start_of_the_sound_nothing_begins() -> None:
    which = at(ALL_BARS)
    first = unknown(which)
    assert first.sound is not None
    cut = round((first.moments_s[which[0]] - 0.003) * 44100)
    early = replace(first, moments_s=first.moments_s - cut / 44100)
    assert probability_of(told(early, first.sound[cut:]).group_odds[which[0], HAT]) < PERHAPS["hat"]


def test_where_no_other_metal_is_heard_it_is_offered() -> None:
    """A track of snares with one stroke that is strange holds no hats for sure."""
    which = at(ALL_BARS)
    first = unknown(which)
    groups = first.heard.group_odds.copy()
    groups[:, [HAT, CYMBALS]] = -4
    bare = replace(first, heard=replace(first.heard, group_odds=groups))
    chance = probability_of(told(bare).group_odds[which, HAT])
    assert (chance >= PERHAPS["hat"]).all() and (chance < LIMITS["hat"]).all()


def test_tracks_of_their_own_say_what_is_struck() -> None:
    first = unknown(at(ALL_BARS))
    given = replace(first.heard, given=np.zeros_like(first.heard.group_odds))
    assert (told(replace(first, heard=given)).group_odds == first.heard.group_odds).all()


def test_where_nothing_is_told_nothing_is_changed() -> None:
    first = unknown(list(range(len(heard(PLAYED).moments_s))))
    assert (told(first).group_odds == first.heard.group_odds).all()
