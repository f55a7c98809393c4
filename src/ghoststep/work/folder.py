"""`ghost-step listen FOLDER`: thousands of files on all cores, past bad ones, and on from where it was stopped.

What was done is kept in a table, one row a file, added as each file ends. A later run reads it and passes over files
that have not changed since; the table is put in order at the end.
"""

import csv
import logging
import sys
import time
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass, fields, replace
from pathlib import Path

from ghoststep.files.analysis import write_analysis
from ghoststep.files.keymap import KeyMap
from ghoststep.files.midi_out import write_midi
from ghoststep.files.places import made
from ghoststep.files.safe import file_trouble, shown, write_text
from ghoststep.files.textgrid_out import write_grid
from ghoststep.listen.bars.reading import Hints
from ghoststep.listen.words import summary
from ghoststep.music.errors import InputError
from ghoststep.music.kit import HEARD_GROUPS, voice
from ghoststep.music.touch import Role
from ghoststep.session.document.document import Document
from ghoststep.work.formats import format_of, plain_name
from ghoststep.work.grooves import analysis_of, hear_file
from ghoststep.work.many import Elsewhere, rows_of
from ghoststep.work.trust import Trust

log = logging.getLogger(__name__)
TABLE = "listening.csv"
OWN_FOLDER = "ghost-step"  # made in the folder where no other place is given for the analyses


@dataclass(frozen=True)
class Outs:
    """Folders for analyses, MIDI files and text grids; None for not wanted."""

    json: Path | None
    midi: Path | None
    grid: Path | None
    division: int = 960
    trust: Trust = Trust.COMPARE


@dataclass
class Row:
    """One file in the table of results; `trouble` is empty where it went well."""

    file: str
    bytes: int = 0
    changed_ns: int = 0
    trouble: str = ""
    tempo_bpm: str = ""
    meter: str = ""
    bars: str = ""
    swing: str = ""
    swing_ratio: str = ""
    hits: str = ""
    kick: str = ""
    snare: str = ""
    hat: str = ""
    toms: str = ""
    cymbals: str = ""
    ghosts: str = ""
    snare_lean_ms: str = ""
    hat_lean_ms: str = ""
    confidence: str = ""
    words: str = ""


_COLUMNS = [f.name for f in fields(Row)]


def listen_folder(
    folder: Path,
    outs: Outs,
    keys: KeyMap,
    hints: Hints,
    *,
    processes: int | None = None,
    elsewhere: Elsewhere | None = None,
    again: bool = False,
) -> int:
    """Hear every recording and MIDI file under a folder; the exit code is 2 where none could be heard.

    Parameters
    ----------
    processes
        How many to work with; all cores where not given.
    elsewhere
        What hears the files instead of processes of this machine: any executor of `concurrent.futures`.
    again
        Hear files too that an earlier run has heard.

    Raises
    ------
    InputError
        Where there is nothing to hear, or the results cannot be written.
    """
    files = _files(folder)
    if not files:
        raise InputError(f"{folder.name or folder} holds no sound or MIDI file.")
    if not any((outs.json, outs.midi, outs.grid)):
        outs = replace(outs, json=folder / OWN_FOLDER)
    home = next(f for f in (outs.json, outs.midi, outs.grid) if f)
    for place in (outs.json, outs.midi, outs.grid):
        if place:
            made(place)
    table = home / TABLE
    known = {} if again else _known(table)
    stems, names = _stems(files, folder), {f: _name(f, folder) for f in files}
    todo = [f for f in files if not _done(f, stems[f], outs, known.get(names[f]))]
    rows = {name: known[name] for name in names.values() if name in known}
    if len(todo) < len(files):
        print(f"{len(files) - len(todo)} of {len(files)} files were heard before and are passed over")
    progress = _Progress(len(todo))
    with _Appending(table) as add:
        tasks: list[Task] = [
            (f, names[f], _targets(stems[f], outs), keys, hints, outs.division, outs.trust) for f in todo
        ]
        for row in rows_of(tasks, heard_row, _lost, processes=processes, elsewhere=elsewhere):
            rows[row.file] = row
            add(row)
            progress.step(row)
    progress.end()
    _write_table(table, [rows[name] for name in sorted(rows)])
    bad = sum(bool(r.trouble) for r in rows.values())
    print(f"{len(rows) - bad} of {len(files)} files heard; the table is {table}")
    return 2 if bad == len(files) else 0


def _files(folder: Path) -> list[Path]:
    """Everything that can be heard under a folder, our own results left out."""
    try:
        found = [p for p in folder.rglob("*") if (row := format_of(p)) and row.found_in_folders and p.is_file()]
    except OSError as error:
        raise file_trouble(error, folder, "read") from error
    return sorted(p for p in found if OWN_FOLDER not in p.relative_to(folder).parts)


def _name(file: Path, folder: Path) -> str:
    return file.relative_to(folder).as_posix()


def _stems(files: Sequence[Path], folder: Path) -> dict[Path, str]:
    """Where each file's results go below the folders of results; like-named recordings keep their endings."""
    alike = Counter((f.parent, plain_name(f).casefold()) for f in files)
    out = {}
    for file in files:
        name = plain_name(file)
        lone = alike[file.parent, name.casefold()] == 1
        out[file] = (file.relative_to(folder).parent / (name if lone else shown(file))).as_posix()
    return out


def _targets(stem: str, outs: Outs) -> list[Path | None]:
    endings = ((outs.json, ".json"), (outs.midi, ".mid"), (outs.grid, ".grid.txt"))
    return [place / f"{stem}{ending}" if place else None for place, ending in endings]


def _known(table: Path) -> dict[str, Row]:
    """Rows of an earlier run; what a kill left half written is passed over."""
    out: dict[str, Row] = {}
    try:
        text = table.read_text("utf-8", "surrogateescape") if table.exists() else ""
    except OSError:
        return {}
    for cells in csv.DictReader(text.splitlines()):
        if set(cells) != set(_COLUMNS) or not all(isinstance(v, str) for v in cells.values()):
            continue
        size, changed = cells.pop("bytes"), cells.pop("changed_ns")
        if size.isdecimal() and changed.isdecimal():
            out[cells["file"]] = Row(bytes=int(size), changed_ns=int(changed), **cells)
    return out


def _done(file: Path, stem: str, outs: Outs, row: Row | None) -> bool:
    """Whether an earlier run has heard the file as it is now, and its results are there."""
    if row is None or row.trouble:
        return False
    size, changed = _state(file)
    wanted = [t for t in _targets(stem, outs) if t]
    return (row.bytes, row.changed_ns) == (size, changed) and all(t.exists() for t in wanted)


def _state(file: Path) -> tuple[int, int]:
    try:
        found = file.stat()
    except OSError:
        return 0, 0
    return found.st_size, found.st_mtime_ns


class _Appending:
    """Adds rows to the table as they come, each on the disk before the next."""

    def __init__(self, table: Path) -> None:
        self._table = table

    def __enter__(self) -> "_Appending":
        new = not self._table.exists()
        try:
            self._file = self._table.open("a", encoding="utf-8", errors="surrogateescape", newline="")
        except OSError as error:
            raise file_trouble(error, self._table, "written") from error
        self._rows = csv.DictWriter(self._file, _COLUMNS)
        if new:
            self._rows.writeheader()
        else:
            self._file.write("\n")  # after a kill the last line may not have ended
        return self

    def __call__(self, row: Row) -> None:
        self._rows.writerow(vars(row))
        self._file.flush()

    def __exit__(self, *_: object) -> None:
        self._file.close()


def _write_table(table: Path, rows: list[Row]) -> None:
    import io

    text = io.StringIO(newline="")
    out = csv.DictWriter(text, _COLUMNS)
    out.writeheader()
    out.writerows(vars(row) for row in rows)
    write_text(table, text.getvalue())


Task = tuple[Path, str, list[Path | None], KeyMap, Hints, int, Trust]


def _lost(task: Task) -> Row:
    """The row of a file that took down what heard it."""
    size, changed = _state(task[0])
    return Row(task[1], size, changed, "the process that heard it ended: the memory may be too small for it")


def heard_row(task: Task) -> Row:
    """Hear one file, write its results, and say in a row what was found."""
    file, name, targets, keys, hints, division, trust = task
    size, changed = _state(file)
    try:
        document = hear_file(file, keys, hints, trust=trust, keep_file=False)
        json, midi, grid = targets
        heard = document.listening
        assert heard is not None
        for target in targets:
            if target:
                made(target.parent)
        if json:
            write_analysis(json, analysis_of(document))
        if midi:
            write_midi(midi, document.groove, keys, division=division)
        if grid:
            write_grid(grid, document.groove)
    except InputError as error:
        return Row(name, size, changed, str(error))
    except MemoryError:
        return Row(name, size, changed, f"{shown(file)} needs more memory than there is.")
    except Exception:
        log.exception("a fault of ours in %s", name)
        return Row(name, size, changed, f"{shown(file)} met a fault of ours; the details are in the log.")
    return _row_of(document, name, size, changed)


def _row_of(document: Document, name: str, size: int, changed: int) -> Row:
    heard = document.listening
    assert heard is not None
    groove = heard.explained.groove
    pattern, swing = groove.pattern, groove.feel.swing
    counts = {group: sum(voice(h.voice).group == group for h in pattern.hits) for group in HEARD_GROUPS}
    lean = groove.feel.lean_of
    return Row(
        name, size, changed, "",
        tempo_bpm=f"{groove.tempo.main_bpm:.2f}", meter=pattern.meter.full_name, bars=str(pattern.bars),
        swing="" if swing.straight else f"{swing.unit}", swing_ratio=f"{swing.ratio:.3f}",
        hits=str(len(pattern.hits)), **{group: str(n) for group, n in counts.items()},
        ghosts=str(sum(h.role is Role.GHOST and not h.grace for h in pattern.hits)),
        snare_lean_ms=f"{lean('snare'):.1f}", hat_lean_ms=f"{lean('hat_closed'):.1f}",
        confidence=f"{sum(heard.confidence) / max(len(heard.confidence), 1):.2f}", words=summary(heard.explained),
    )  # fmt: skip


class _Progress:
    """A bar on a terminal; elsewhere a line now and then, and every trouble on the error output."""

    def __init__(self, count: int) -> None:
        self._count, self._at, self._bad = count, 0, 0
        self._started = self._shown = time.monotonic()
        self._live = sys.stderr.isatty()

    def step(self, row: Row) -> None:
        self._at += 1
        if row.trouble:
            self._bad += 1
            self._clear()
            print(f"ghost-step: {shown(Path(row.file))}: {row.trouble}", file=sys.stderr)
        now = time.monotonic()
        if self._live:
            share = self._at / max(self._count, 1)
            bar = "#" * round(24 * share)
            left = (now - self._started) / self._at * (self._count - self._at)
            bad = f", {self._bad} bad" if self._bad else ""
            words = f"[{bar:-<24}] {self._at} of {self._count}{bad}, about {_span(left)} left"
            print(f"\r{words:<78}", end="", file=sys.stderr, flush=True)
        elif now - self._shown > 30:
            self._shown = now
            print(f"{self._at} of {self._count} files")

    def _clear(self) -> None:
        if self._live:
            print(f"\r{'':78}\r", end="", file=sys.stderr)

    def end(self) -> None:
        self._clear()


def _span(seconds: float) -> str:
    return (
        f"{seconds:.0f} s"
        if seconds < 90
        else f"{seconds / 60:.0f} min"
        if seconds < 5400
        else f"{seconds / 3600:.1f} h"
    )
