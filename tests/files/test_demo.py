import hashlib

import pytest
from tools.make_demo import MOUTHED, ROUTE, make, mouth_recorded, recorded

from ghoststep.files.demo import MOUTH, STOPS, demo_folder, demo_mouth, demo_recordings
from ghoststep.listen.bars.reading import Hints
from ghoststep.work.grooves import hear_mouth_file


def test_the_demo_is_made_again_byte_for_byte(tmp_path) -> None:
    some = (ROUTE[0], ROUTE[-1], MOUTHED)  # all are made in one way, which takes its time
    make(tmp_path, some)
    assert {s.name for s in some} <= {*STOPS, MOUTH}
    for stop in (s.name for s in some):
        for suffix in (".wav", ".json"):
            made, shipped = ((folder / f"{stop}{suffix}").read_bytes() for folder in (tmp_path, demo_folder()))
            assert hashlib.sha256(made).digest() == hashlib.sha256(shipped).digest(), f"{stop}{suffix}"


def test_the_recordings_are_4_to_8_bars_with_ghosts() -> None:
    assert [r.stem for r in demo_recordings()] == [s.name for s in ROUTE]
    groove, data = recorded(ROUTE[0])
    assert 4 <= groove.pattern.bars <= 8 and len(data) < 4_000_000
    assert sum(h.role == "ghost" for h in groove.pattern.hits) >= 8


def test_the_mouth_phrase_is_heard_as_it_was_meant() -> None:
    document = hear_mouth_file(demo_mouth(), Hints())
    groove = mouth_recorded(MOUTHED)[0]
    found = sorted((h.position_ticks, h.voice) for h in document.groove.pattern.hits)
    meant = sorted((h.position_ticks, h.voice) for h in groove.pattern.hits)
    assert document.groove.tempo.main_bpm == pytest.approx(100, rel=0.01)
    assert len(set(found) & set(meant)) >= 0.95 * len(meant)
