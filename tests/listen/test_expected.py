"""Metal at which nothing seemed to begin is looked for where other bars, or other beats, strike it."""

from dataclasses import replace
from functools import lru_cache

import numpy as np
import pytest
from tests.listen.made_heard import after_rule

from ghoststep.feel.perform import perform
from ghoststep.files.textgrid import parse_grid
from ghoststep.listen.bars.explain import explain
from ghoststep.listen.signal.groups import NET_GROUPS
from ghoststep.listen.strokes.expected import expected_s, with_expected
from ghoststep.listen.strokes.hearing import Hearing, decided, listen
from ghoststep.listen.strokes.network import Heard
from ghoststep.listen.strokes.rules.beginning import OnlyExpected
from ghoststep.listen.way import groove_of
from ghoststep.music.groove import Groove
from ghoststep.music.kit import VOICES
from ghoststep.sound.sketch import sketch_kit

HAT = NET_GROUPS.index("hat")
EIGHTHS = "x-x-x-x-x-x-x-x-"


def groove(hats: list[str], head: str = "tempo 100") -> Groove:
    bars = [("kick", "X-----x-X-------"), ("snare", "----X-------X---")]
    lines = [head, f"hat_closed {'|'.join(hats)}", *(f"{voice} {'|'.join([bar] * len(hats))}" for voice, bar in bars)]
    return parse_grid("\n".join(lines))


@lru_cache(maxsize=8)
def heard(played: Groove) -> Hearing:
    """A first hearing of the groove on the built-in kit, which begins a fifth of a second after the sound."""
    strokes, kit = perform(played), sketch_kit(44100)
    sound = np.zeros(round((strokes.length_s + 1.0) * 44100), np.float32)
    for i, (onset_s, v, velocity) in enumerate(zip(strokes.onset_s, strokes.voice, strokes.velocity, strict=True)):
        at = round((onset_s + 0.2) * 44100)
        blow = kit.mono_blow(VOICES[v].name, int(velocity), np.random.default_rng(i))[: len(sound) - at]
        sound[at : at + len(blow)] += blow
    return listen(sound, 44100)


def without_candidate(first: Hearing, at_s: float) -> Hearing:
    """The hearing as if nothing had seemed to begin at a moment."""
    kept = np.abs(first.moments_s - at_s) > 0.03
    old = first.heard
    rows = {name: getattr(old, name)[kept] for name in vars(old) if name not in ("inner", "given")}
    few = Heard(**rows, inner=old.inner[:, kept])
    found = decided(first.moments_s[kept], few, length_s=first.performance.length_s, remarks=())
    return replace(found, sound=first.sound, scene=first.scene)


def hats_at(hearing: Hearing, at_s: float) -> int:
    hats = np.array([VOICES[v].group == "hat" for v in hearing.performance.voice])
    return int((hats & (np.abs(hearing.performance.onset_s - at_s) < 0.012)).sum())


def time_of_hat(played: Groove, bar: int, step: int) -> float:
    """When the hat nearest to a sixteenth of a bar, both counted from 0, is played in what `heard` listens to."""
    strokes = perform(played)
    hats = strokes.onset_s[[VOICES[v].group == "hat" for v in strokes.voice]]
    quarter_s = 60 / played.tempo.main_bpm
    return float(hats[np.abs(hats - (bar * 4 + step / 4) * quarter_s).argmin()]) + 0.2


@pytest.mark.parametrize(
    ("head", "bar", "step"),
    [("tempo 100", 2, 6), ("tempo 92\nswing 8 0.64\nlean hat +14", 1, 10)],
)
def test_a_hat_that_nothing_seemed_to_begin_at_is_heard_where_other_bars_have_one(
    head: str, bar: int, step: int
) -> None:
    played = groove([EIGHTHS] * 4, head)
    at_s = time_of_hat(played, bar, step)
    first = without_candidate(heard(played), at_s)
    assert hats_at(first, at_s) == 0
    more_s = expected_s(first, explain(first.performance))
    assert more_s == pytest.approx([at_s], abs=0.006)
    again, _ = groove_of(first)
    assert hats_at(again, at_s) == 1
    assert len(again.moments_s) == len(first.moments_s) + 1 and (np.diff(again.moments_s) > 0).all()


def test_every_other_beat_tells_as_well_where_bars_differ() -> None:
    """A hat on each offbeat: in bar 2 the last is missed, which in other bars is never struck."""
    played = groove(["--x---x---x-----", "--x---x---x---x-", "--x---x---x-----", "--x---x---x-----"])
    at_s = time_of_hat(played, 1, 14)
    first = without_candidate(heard(played), at_s)
    assert hats_at(groove_of(first)[0], at_s) == 1


def test_the_same_place_of_other_bars_tells_where_beats_differ() -> None:
    played = groove(["x---x---x---x-x-"] * 4)
    at_s = time_of_hat(played, 2, 14)
    first = without_candidate(heard(played), at_s)
    assert hats_at(groove_of(first)[0], at_s) == 1


def test_where_a_hat_was_heard_late_none_is_expected_beside_it() -> None:
    first = heard(groove([EIGHTHS] * 4))
    late = int(np.abs(first.performance.onset_s - (0.2 + 9.5 * 0.6)).argmin())
    moved_s = first.performance.onset_s.copy()
    moved_s[late] += 0.036
    played = replace(first.performance, onset_s=moved_s)
    moments_s = first.moments_s + np.where(np.abs(first.moments_s - moved_s[late] + 0.036) < 0.01, 0.036, 0.0)
    assert not len(expected_s(replace(first, performance=played, moments_s=moments_s), explain(played)))


def test_a_hat_that_is_left_out_is_not_made_up() -> None:
    played = groove([EIGHTHS, EIGHTHS, "x-x-x---x-x-x---", EIGHTHS])
    first = heard(played)
    explained = explain(first.performance)
    again, new = with_expected(first, explained)
    assert new.sum() >= 1, "the gaps are looked at"
    assert (again.heard.group_odds[new] == -10).all() and (again.moments_s[~new] == first.moments_s).all()
    heard_in_bars, _ = groove_of(first)
    assert [hats_at(heard_in_bars, 0.2 + (2 * 4 + step / 4) * 0.6) for step in (4, 6, 14)] == [1, 0, 0]


def test_a_bar_in_which_the_part_rests_is_not_searched() -> None:
    first = heard(groove([EIGHTHS, EIGHTHS, "x---------------", EIGHTHS, EIGHTHS]))
    assert not len(expected_s(first, explain(first.performance)))


def test_few_strokes_bars_or_no_sound_expect_nothing() -> None:
    first = heard(groove(["x-x-------------", "x---------------", "----------------", "----------------"]))
    assert not len(expected_s(first, explain(first.performance)))
    short = heard(groove([EIGHTHS] * 2))
    assert not len(expected_s(short, explain(short.performance)))
    mute = replace(without_candidate(heard(groove([EIGHTHS] * 4)), 0.2 + 9.5 * 0.6), sound=None)
    same, new = with_expected(mute, explain(mute.performance))
    assert same is mute and not new.any()


def test_what_is_only_expected_is_believed_less() -> None:
    first = heard(groove([EIGHTHS] * 3))
    new = np.zeros(len(first.moments_s), bool)
    new[4] = True
    moved = after_rule(OnlyExpected(), first.heard, first.moments_s, expected=new).group_odds - first.heard.group_odds
    assert moved[4] == pytest.approx(-1.4) and not np.delete(moved, 4, axis=0).any()
