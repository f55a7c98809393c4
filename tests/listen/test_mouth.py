"""Mouth drumming learned from itself or from a lesson; the beatboxer is simulated."""

import numpy as np
import pytest
from tools.mouth_voice import mouthed

from ghoststep.listen.entries.mouth import NO_LESSON, hear_mouth, lesson_of
from ghoststep.music.errors import InputError
from ghoststep.music.kit import VOICE_NAMES
from ghoststep.music.performance import Performance

RATE = 44100
THREE = ("kick", "snare", "hat_closed")


def phrase(used: tuple[str, ...], person: int, *, start_s: float = 0.3) -> list[tuple[float, str, int]]:
    rng = np.random.default_rng(person)
    out = []
    for i in range(32):
        voice = "kick" if i % 8 == 0 else used[1] if i % 8 == 4 else str(rng.choice(used)) if i % 2 == 0 else ""
        if voice:
            out.append((start_s + i * 0.15 + rng.normal(0, 0.005), voice, int(rng.uniform(60, 110))))
    return out


def right(found: Performance, meant: list[tuple[float, str, int]]) -> int:
    count = 0
    for time_s, voice, _ in meant:
        away = np.abs(found.onset_s - time_s)
        count += away.min() < 0.03 and VOICE_NAMES[found.voice[away.argmin()]] == voice
    return count


@pytest.mark.parametrize("person", range(6))
def test_three_sounds_are_told_apart_without_a_lesson(person: int) -> None:
    meant = phrase(THREE, person)
    heard = hear_mouth(mouthed(meant, rate=RATE, length_s=6, seed=person, person=person), RATE)
    assert len(heard.performance) == len(meant) and right(heard.performance, meant) >= len(meant) - 1
    assert heard.confidence.min() > 0 and heard.confidence.max() <= 1


@pytest.mark.parametrize("person", [20, 21])
def test_a_lesson_names_sounds_that_would_be_named_otherwise(person: int) -> None:
    """Whoever says "ts" for a ride is believed."""
    lesson = [(0.2 + 0.35 * i, THREE[i // 3], 90) for i in range(9)]
    taught = lesson_of(mouthed(lesson, rate=RATE, length_s=4, seed=1, person=person), RATE, ("kick", "snare", "ride"))
    assert taught.voices == ("kick",) * 3 + ("snare",) * 3 + ("ride",) * 3
    meant = phrase(THREE, person)
    heard = hear_mouth(mouthed(meant, rate=RATE, length_s=6, seed=2, person=person), RATE, lesson=taught)
    renamed = [(t, "ride" if v == "hat_closed" else v, x) for t, v, x in meant]
    assert right(heard.performance, renamed) >= len(meant) - 1


def test_a_recording_may_begin_with_its_own_lesson() -> None:
    lesson = [(0.2, "kick", 90), (0.7, "snare", 90), (1.2, "hat_closed", 90)]
    meant = phrase(THREE, 3, start_s=2.0)
    sound = mouthed(lesson + meant, rate=RATE, length_s=8, seed=3, person=3)
    heard = hear_mouth(sound, RATE, taught=THREE)
    assert heard.performance.onset_s.min() > 1.9 and right(heard.performance, meant) >= len(meant) - 1


def test_where_there_is_no_lesson_nothing_of_the_groove_is_eaten() -> None:
    meant = phrase(THREE, 3, start_s=0.3)
    heard = hear_mouth(mouthed(meant, rate=RATE, length_s=6, seed=3, person=3), RATE, taught=THREE)
    assert heard.performance.onset_s.min() < 0.4 and len(heard.performance) >= len(meant) - 1
    assert NO_LESSON in heard.remarks


def test_louder_sounds_have_higher_velocities() -> None:
    meant = [(0.3 + 0.4 * i, "kick", v) for i, v in enumerate((50, 70, 90, 110, 60, 100))]
    heard = hear_mouth(mouthed(meant, rate=RATE, length_s=4, seed=4), RATE)
    assert np.argsort(heard.performance.velocity).tolist() == np.argsort([v for *_, v in meant]).tolist()


def test_what_teaches_nothing_is_said() -> None:
    sound = mouthed([(0.3, "kick", 90), (0.8, "snare", 90)], rate=RATE, length_s=2, seed=5)
    with pytest.raises(InputError, match="no phrase is left"):
        hear_mouth(sound, RATE, taught=THREE)
    with pytest.raises(InputError, match="3 voices"):
        lesson_of(sound, RATE, THREE)
    with pytest.raises(InputError, match="gong"):
        lesson_of(sound, RATE, ("gong",))
    with pytest.raises(InputError, match="silent"):
        hear_mouth(np.zeros(RATE, np.float32), RATE)
