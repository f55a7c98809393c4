"""A plain table of hits (CSV): time_s, voice and, if known, velocity. Taps are kept this way."""

import csv
import io
from pathlib import Path

from ghoststep.files.safe import read_bytes, write_text
from ghoststep.music.errors import InputError
from ghoststep.music.kit import VOICE_INDEX, VOICE_NAMES, voice
from ghoststep.music.performance import Performance

_TAPPED = 80
_MAX_BYTES = 20_000_000
_MAX_S = 6 * 3600.0
MAX_ROWS = 80_000
_MOST_SPAN_S = 3 * 3600.0


def read_hits(path: Path) -> Performance:
    """Read a table of hits.

    Raises
    ------
    InputError
        Where it cannot be read or holds no hit; it names the line.
    """
    try:
        text = read_bytes(path, limit_bytes=_MAX_BYTES).decode("utf-8-sig")
    except UnicodeDecodeError as error:
        raise InputError(f"{path.name} is not a text file in UTF-8.") from error
    return parse_hits(text, path.name)


def parse_hits(text: str, source: str) -> Performance:
    """The hits of a table, in the order of time.

    Raises
    ------
    InputError
        Where a line is no hit, or there are none, too many, or hours of them.
    """
    rows: list[tuple[float, int, int]] = []
    try:
        for number, cells in enumerate(csv.reader(io.StringIO(text)), 1):
            words = [c.strip() for c in cells]
            if not any(words) or words[0].startswith("#") or words[0].lower() == "time_s":
                continue
            rows.append(_row(words, f"{source}, line {number}"))
    except csv.Error as error:
        raise InputError(f"{source} is no table of hits: {error}.") from error
    if not rows:
        raise InputError(
            f"{source} holds no hit: a row is a time in seconds, a voice and a velocity, like 1.25,snare,96."
        )
    rows.sort()
    if len(rows) > MAX_ROWS:
        raise InputError(f"{source} holds {len(rows)} hits; at most {MAX_ROWS} can be read.")
    onset, voices, velocity = zip(*rows, strict=True)
    if onset[-1] - onset[0] > _MOST_SPAN_S:
        raise InputError(
            f"{source} spans {(onset[-1] - onset[0]) / 3600:.1f} hours, more bars than a groove holds: cut out the"
            " passage you want."
        )
    return Performance.of(onset, voices, velocity, length_s=onset[-1])


def _row(words: list[str], place: str) -> tuple[float, int, int]:
    if not 2 <= len(words) <= 3:
        raise InputError(f"{place}: a row is a time in seconds, a voice and a velocity, like 1.25,snare,96.")
    try:
        time_s, velocity = float(words[0]), int(words[2]) if len(words) == 3 else _TAPPED
    except ValueError as error:
        raise InputError(f"{place}: '{','.join(words)}' does not hold a time and a velocity in figures.") from error
    if not 0 <= time_s <= _MAX_S:
        raise InputError(f"{place}: a time of {time_s:g} s is outside 0 to {_MAX_S:g} s.")
    if not 1 <= velocity <= 127:
        raise InputError(f"{place}: a velocity of {velocity} is outside 1 to 127.")
    return time_s, VOICE_INDEX[voice(words[1]).name], velocity


def hits_text(performance: Performance) -> str:
    """The table of a performance."""
    rows = zip(performance.onset_s, performance.voice, performance.velocity, strict=True)
    return "time_s,voice,velocity\n" + "".join(f"{t:.6f},{VOICE_NAMES[v]},{x}\n" for t, v, x in rows)


def write_hits(path: Path, performance: Performance) -> None:
    write_text(path, hits_text(performance))
