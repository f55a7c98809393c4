"""What a project says is refused where it is out of range or unknown, and reading stops where it has to."""

from pathlib import Path

import msgspec
import pytest

from ghoststep.feel.perform import perform
from ghoststep.files import schema
from ghoststep.files.safe import read_bytes
from ghoststep.files.textgrid import parse_grid
from ghoststep.listen.bars.reading import Hints
from ghoststep.music.errors import InputError
from ghoststep.work.hits_heard import heard_performance

ROWS = [
    row for row in vars(schema).values()
    if isinstance(row, type) and issubclass(row, msgspec.Struct) and row is not msgspec.Struct
]  # fmt: skip


@pytest.mark.parametrize("row", ROWS, ids=lambda row: row.__name__)
def test_no_row_of_a_project_takes_what_it_does_not_know(row: type[msgspec.Struct]) -> None:
    required = {f.encode_name: None for f in msgspec.structs.fields(row) if f.required}
    with pytest.raises(msgspec.ValidationError, match="unknown field"):
        # Unknown names are met first, as they come first.
        msgspec.json.decode(msgspec.json.encode({"unheard_of": 1} | required), type=row)


def project() -> dict:  # type: ignore[type-arg]
    groove = parse_grid("tempo 96\nsnare ----X-------X---\nkick X-------X-------\nhat_closed x-x-x-x-x-x-x-x-")
    document = heard_performance(perform(groove), "yard", Hints(tempo_bpm=96))
    return msgspec.json.decode(msgspec.json.encode(schema.document_row(document, None)))  # type: ignore[no-any-return]


def read(row: dict) -> object:  # type: ignore[type-arg]
    return schema.document_from(msgspec.json.decode(msgspec.json.encode(row), type=schema.DocumentRow))


PERHAPS = {"time_s": 0.5, "voice": "snare", "velocity": 30, "odds": 0.4}


@pytest.mark.parametrize(
    ("field", "good", "bad"),
    [
        ("perhaps", [PERHAPS | {"velocity": 1}], [PERHAPS | {"velocity": 0}]),
        ("perhaps", [PERHAPS | {"velocity": 127}], [PERHAPS | {"velocity": 128}]),
        ("perhaps", [PERHAPS | {"odds": 1.0}], [PERHAPS | {"odds": 1.01}]),
        ("perhaps", [PERHAPS | {"odds": 0.0}], [PERHAPS | {"odds": -0.01}]),
        ("perhaps", [PERHAPS], [PERHAPS | {"voice": "gong"}]),
        ("perhaps", [PERHAPS], [PERHAPS | {"time_s": 1e12}]),
        ("swing_error", 0.0, -0.1),
        ("loose_ms", {"kick": 0.0}, {"kick": -1.0}),
        ("loose_ms", {"kick": 1.0}, {"gong": 1.0}),
        ("passages", [[0, 20160, 16]], [[20160, 20160, 16]]),
        ("passages", [[0, 20160, 12]], [[0, 20160, 0]]),
        ("hints", {"click": [96, 0.5]}, {"click": [0, 0.5]}),
        ("hints", {"tempo_bpm": 10}, {"tempo_bpm": 9.9}),
        ("closed_s", [[0.1, 0.2]], [[0.1, 1e12]]),
        ("start_s", -0.5, 1e12),
    ],
)
def test_figures_of_what_was_heard_have_a_range(field: str, good: object, bad: object) -> None:
    row = project()
    row["listening"][field] = good
    read(row)
    row["listening"][field] = bad
    with pytest.raises(InputError):
        read(row)


@pytest.mark.parametrize(("odds", "fits"), [(0.0, True), (1.0, True), (1.01, False), (-0.01, False)])
def test_confidence_is_from_0_to_1(odds: float, fits: bool) -> None:
    row = project()
    row["listening"]["confidence"][0] = odds
    if fits:
        read(row)
    else:
        with pytest.raises(InputError, match="confidence"):
            read(row)


def test_a_file_of_just_the_limit_is_read_and_one_byte_more_is_not(tmp_path: Path) -> None:
    file = tmp_path / "a.bin"
    file.write_bytes(b"x" * 100)
    assert len(read_bytes(file, limit_bytes=100)) == 100
    with pytest.raises(InputError):
        read_bytes(file, limit_bytes=99)
