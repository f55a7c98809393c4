"""Corrections lie over what was heard, in order, and none is lost to another."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from ghoststep.listen.bars.reading import Hints
from ghoststep.listen.corrections import Corrections, Fix, FixKind, corrected
from ghoststep.music.errors import InputError
from ghoststep.music.kit import VOICE_INDEX, VOICE_NAMES
from ghoststep.music.meter import Meter
from ghoststep.music.performance import Performance

HEARD = Performance.of(
    [0.1, 0.5, 0.5, 0.9],
    [VOICE_INDEX[v] for v in ("kick", "snare", "hat_closed", "kick")],
    [100, 90, 60, 80],
    length_s=2,
)
SURE = np.array([0.9, 0.4, 0.8, 0.7])


def names(fixes: tuple[Fix, ...]) -> list[tuple[float, str]]:
    laid = corrected(HEARD, SURE, fixes)
    return [
        (round(float(t), 3), VOICE_NAMES[v])
        for t, v in zip(laid.performance.onset_s, laid.performance.voice, strict=True)
    ]


def test_each_kind_does_what_it_says() -> None:
    other = Fix(FixKind.VOICE, 0.5, "snare", to_voice="tom_mid")
    assert (0.5, "tom_mid") in names((other,)) and (0.5, "snare") not in names((other,))
    assert len(names((Fix(FixKind.GONE, 0.9, "kick"),))) == 3
    new = Fix(FixKind.NEW, 0.7, "ride", velocity=66)
    assert names((new,))[3] == (0.7, "ride")
    laid = corrected(HEARD, SURE, (Fix(FixKind.SURE, 0.5, "snare"), Fix(FixKind.SPOT, 0.9, "kick", meant_s=1.0)))
    assert laid.confidence.tolist() == [0.9, 1.0, 0.8, 1.0] and laid.meant_s[3] == 1.0 and np.isnan(laid.meant_s[0])


def test_a_later_correction_names_the_hit_as_it_is_by_then() -> None:
    first = Fix(FixKind.VOICE, 0.5, "snare", to_voice="tom_mid")
    again = Fix(FixKind.VOICE, 0.5, "tom_mid", to_voice="tom_low")
    assert (0.5, "tom_low") in names((first, again))
    assert (0.5, "snare") not in names((first, again, Fix(FixKind.GONE, 0.5, "snare")))  # there is none any more
    assert (0.7, "ride") not in names((Fix(FixKind.NEW, 0.7, "ride", velocity=66), Fix(FixKind.GONE, 0.7, "ride")))


def test_the_same_new_hit_twice_is_one() -> None:
    new = Fix(FixKind.NEW, 0.7, "ride", velocity=66)
    assert names((new, new)) == names((new,))


def test_the_last_hit_stays_and_nonsense_is_refused() -> None:
    with pytest.raises(InputError, match="last hit"):
        corrected(
            HEARD,
            SURE,
            tuple(Fix(FixKind.GONE, float(t), VOICE_NAMES[v]) for t, v in zip(HEARD.onset_s, HEARD.voice, strict=True)),
        )
    for bad in (
        lambda: Fix(FixKind.NEW, 0.5, "snare", velocity=0),
        lambda: Fix(FixKind.VOICE, 0.5, "snare", to_voice="gong"),
        lambda: Fix(FixKind.SURE, float("nan"), "snare"),
        lambda: Fix(FixKind.SURE, 0.5, "gong"),
    ):
        with pytest.raises(InputError):
            bad()


def test_what_is_said_goes_before_what_was_given() -> None:
    given_hints = Hints(tempo_bpm=90, bars=4)
    said = Corrections(meter=Meter(7, 8), straight=True).hints(given_hints)
    assert said == Hints(90, Meter(7, 8), 4, None, True)
    assert Corrections().hints(given_hints) == given_hints


fixes = st.builds(
    lambda kind, i, voice, to, velocity: Fix(kind, float(HEARD.onset_s[i]), voice, to, velocity, 0.5),
    st.sampled_from(list(FixKind)), st.integers(0, 3), st.sampled_from(["kick", "snare", "hat_closed"]),
    st.sampled_from(VOICE_NAMES), st.integers(1, 127),
)  # fmt: skip


@given(st.lists(fixes, max_size=12))
@settings(deadline=None)
def test_any_corrections_leave_a_performance_in_order(said: list[Fix]) -> None:
    try:
        laid = corrected(HEARD, SURE, tuple(said))
    except InputError as error:
        assert "last hit" in str(error)
        return
    assert (np.diff(laid.performance.onset_s) >= 0).all()
    assert len(laid.performance) == len(laid.confidence) == len(laid.meant_s)
