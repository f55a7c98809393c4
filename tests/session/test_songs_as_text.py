"""Whatever is done to a song, its text says it: read again, form and groove are those in memory, hit for hit."""

import pytest
from tools.fuzz.songs import SONGS, check, context_of, walk

from ghoststep.music.errors import InputError
from ghoststep.session.language.doing import do


@pytest.mark.parametrize("seed", range(6))
def test_a_song_read_from_its_own_text_is_the_song_in_memory(seed: int) -> None:
    changed, wrong = walk(seed, 14)
    assert not wrong, wrong[0]
    assert changed > 2


def test_a_lane_that_repeats_is_said_once_where_a_part_has_a_grid_of_its_own() -> None:
    context = context_of(SONGS[0])
    for phrase in ("cycle 3 hat_pedal", "rewrite double", "cycle 3 hat_closed"):
        context = do(context, phrase)[1]
        assert check(context) == ""


def test_a_part_of_empty_bars_more_is_another_part() -> None:
    context = context_of(
        "tempo 100\npart A\nkick X-------X-------\npart E\nkick ----------------\nsection s = A E A\nform = s s\n"
    )
    with pytest.raises(InputError, match="played elsewhere"):
        do(context, "part A bars 1-2")
    assert check(do(context, "part N bars 1-2")[1]) == ""
