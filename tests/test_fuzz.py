"""A few hundred broken files on every reader; `make fuzz` breaks twenty thousand."""

import random
from pathlib import Path

import pytest
from tools.fuzz import mutators
from tools.fuzz.run import fuzzed
from tools.fuzz.targets import Target, targets


@pytest.fixture(scope="module")
def readers(tmp_path_factory: pytest.TempPathFactory) -> tuple[Target, ...]:
    return targets(tmp_path_factory.mktemp("good"))


def test_what_is_not_broken_is_read(readers: tuple[Target, ...], tmp_path: Path) -> None:
    for target in readers:
        for data in target.good:
            path = tmp_path / f"good{target.ending}"
            path.write_bytes(data)
            target.read(path)


def test_broken_files_are_read_or_refused(readers: tuple[Target, ...], tmp_path: Path) -> None:
    found = fuzzed(list(readers), 900, 2026, tmp_path)
    assert [f"{f.name}: {f.words}" for f in found.faults] == []
    assert sum(n for kind, n in found.counts.items() if kind.endswith("refused")) > 200


def test_a_reader_that_breaks_is_noticed(tmp_path: Path) -> None:
    def breaks(path: Path) -> object:
        return {}[path.read_bytes()]

    target = Target("broken", ".x", (b"anything at all",), mutators.BYTES, breaks)
    found = fuzzed([target], 20, 1, tmp_path)
    assert len(found.faults) == 20 and "KeyError at test_fuzz.py" in found.faults[0].words


@pytest.mark.parametrize("mutate", dict.fromkeys([*mutators.TEXT, *mutators.VALUES]), ids=lambda m: m.__name__)
def test_a_seed_breaks_the_same_file_again(mutate: mutators.Mutator) -> None:
    data = b'{"tempo": 96, "hits": [{"at": 0, "voice": "kick"}, {"at": 5040, "voice": "snare"}]}'
    broken = [mutate(data, random.Random(seed)) for seed in range(30)]
    assert broken == [mutate(data, random.Random(seed)) for seed in range(30)]
    assert sum(b != data for b in broken) > 20
