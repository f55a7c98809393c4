"""What holds of every rule of listening: it only adds, invents nothing, and leaves silence and a lone stroke alone."""

from dataclasses import replace
from functools import cache

import numpy as np
import pytest
from tests.listen.made_heard import CYMBALS, HAT, KICK, SNARE, heard_of
from tests.listen.test_expected import EIGHTHS, groove, heard

from ghoststep.listen.bars.explain import explain
from ghoststep.listen.strokes.evidence import Evidence, Shift
from ghoststep.listen.strokes.network import Heard
from ghoststep.listen.strokes.rules.other_bars import OtherBars
from ghoststep.listen.strokes.rules.rule import Rule, after
from ghoststep.listen.strokes.rules.table import FIRST_HEARING, RULES, SECOND_HEARING

DRAWN = range(12)


@cache
def drawn(seed: int) -> Evidence:
    """A bar of eighths as it is heard, with what is said of groups and voices strewn about."""
    first = heard(groove([EIGHTHS] * 4))
    rng = np.random.default_rng(seed)
    spread = rng.choice([1.0, 3.0, 6.0])
    told = replace(
        first.heard,
        group_odds=(first.heard.group_odds + spread * rng.standard_normal(first.heard.group_odds.shape)).astype("f4"),
        voice_odds=(first.heard.voice_odds + spread * rng.standard_normal(first.heard.voice_odds.shape)).astype("f4"),
    )
    expected = rng.random(len(first.moments_s)) < 0.1
    return Evidence(first.moments_s, told, first.sound, explain(first.performance), expected)


def added(shift: Shift, heard: Heard) -> list[tuple[np.ndarray, np.ndarray]]:
    """Each thing that a rule adds to, with what it adds."""
    pairs = (
        (heard.group_odds, shift.groups),
        (heard.voice_odds, shift.voices),
        (heard.velocity, shift.velocity),
        (heard.late_s, shift.late_s),
    )
    return [(old, new) for old, new in pairs if new is not None]


def by_name(rules: tuple[Rule, ...]) -> pytest.MarkDecorator:
    return pytest.mark.parametrize("rule", rules, ids=[r.name for r in rules])


def test_every_rule_has_a_name_of_its_own_a_reason_and_numbers() -> None:
    assert len({r.name for r in RULES}) == len(RULES)
    assert set(FIRST_HEARING) <= set(SECOND_HEARING)
    for rule in RULES:
        assert rule.why.endswith(".") and rule.idea and rule.__dataclass_fields__, rule.name


@by_name(RULES)
def test_a_rule_adds_finite_numbers_of_the_shape_of_what_is_heard_and_changes_nothing_itself(rule: Rule) -> None:
    for seed in DRAWN:
        e = drawn(seed)
        before = [a.copy() for a in (e.heard.group_odds, e.heard.voice_odds, e.heard.velocity, e.heard.late_s)]
        for old, new in added(rule.shift(e), e.heard):
            assert new.shape == old.shape and np.isfinite(new).all()
        now = (e.heard.group_odds, e.heard.voice_odds, e.heard.velocity, e.heard.late_s)
        assert all(np.array_equal(a, b) for a, b in zip(before, now, strict=True))
        assert after([rule], e).moments_s is e.moments_s


@by_name(tuple(r for r in RULES if r.once))
def test_a_rule_that_is_heard_twice_adds_nothing_more(rule: Rule) -> None:
    for seed in DRAWN:
        e = drawn(seed)
        again = rule.shift(after([rule], e))
        assert all(np.abs(new).max() < 1e-4 for _, new in added(again, e.heard)), seed


def only(odds: list[dict[int, float]]) -> Evidence:
    """Candidates half a second apart in a groove that is known, without any other sound."""
    e = drawn(0)
    told = heard_of(odds, ["open hat"] * len(odds))
    moments_s = 0.2 + 0.6 * np.arange(len(odds))
    return replace(e, moments_s=moments_s, heard=told, sound=np.zeros(5 * 44100, np.float32), expected=None)


@by_name(tuple(r for r in RULES if r.name not in ("other bars", "hats with snares")))
@pytest.mark.parametrize("group", [None, KICK, SNARE, HAT, CYMBALS])
def test_silence_and_a_lone_stroke_stay_what_they_are(rule: Rule, group: int | None) -> None:
    e = only([{}, {} if group is None else {group: 6.0}, {}])
    found = after([rule], e)
    assert np.array_equal(found.told, e.told)
    assert np.array_equal(found.hat_voice, e.hat_voice) and np.array_equal(found.heard.velocity, e.heard.velocity)


def test_other_bars_never_make_a_stroke_of_what_is_hardly_heard_anywhere() -> None:
    e = only([{}] * 3)
    assert not after(SECOND_HEARING, e).told.any()


def test_a_rule_that_is_off_adds_nothing_and_what_was_before_it_is_kept() -> None:
    e = drawn(3)
    names = [r.name for r in SECOND_HEARING]
    left = after(SECOND_HEARING, e, off=names)
    assert np.array_equal(left.heard.group_odds, e.heard.group_odds)
    assert np.array_equal(left.before("other bars").heard.voice_odds, e.heard.voice_odds)
    assert left.before("no such rule") is left


def test_what_a_bar_itself_says_is_left_out_of_what_it_is_expected_to_hold() -> None:
    rule, e = OtherBars(recording=0.0, beats=0.0), drawn(0)
    assert e.explained is not None
    odds = e.heard.group_odds.copy()
    odds[:] = -4.0
    told = replace(e, heard=replace(e.heard, group_odds=odds))
    at = 5
    sure = odds.copy()
    sure[at, SNARE] = 6.0
    before = rule.whole_shift(told, e.explained)
    after_it = rule.whole_shift(replace(told, heard=replace(e.heard, group_odds=sure)), e.explained)
    assert after_it[at, SNARE] == pytest.approx(before[at, SNARE])
    assert (after_it[:, SNARE] > before[:, SNARE] + 1).sum() == 3  # the same place of the three other bars
