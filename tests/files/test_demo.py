import hashlib

from tools.make_demo import ROUTE, make, recorded

from ghoststep.files.demo import STOPS, demo_folder, demo_recordings


def test_the_demo_is_made_again_byte_for_byte(tmp_path) -> None:
    make(tmp_path)
    for stop in STOPS:
        for suffix in (".wav", ".json"):
            made, shipped = ((folder / f"{stop}{suffix}").read_bytes() for folder in (tmp_path, demo_folder()))
            assert hashlib.sha256(made).digest() == hashlib.sha256(shipped).digest(), f"{stop}{suffix}"


def test_the_recordings_are_4_to_8_bars_with_ghosts() -> None:
    assert [r.stem for r in demo_recordings()] == [s.name for s in ROUTE]
    groove, data = recorded(ROUTE[0])
    assert 4 <= groove.pattern.bars <= 8 and len(data) < 4_000_000
    assert sum(h.role == "ghost" for h in groove.pattern.hits) >= 8
