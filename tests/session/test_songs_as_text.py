"""Whatever is done to a song, its text says it: read again, form and groove are those in memory, hit for hit."""

import pytest
from tools.fuzz.songs import walk


@pytest.mark.parametrize("seed", range(6))
def test_a_song_read_from_its_own_text_is_the_song_in_memory(seed: int) -> None:
    changed, wrong = walk(seed, 14)
    assert not wrong, wrong[0]
    assert changed > 2
