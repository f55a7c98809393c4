"""Project files: a zip with project.json and the recording, saved whole or not at all."""

import io
import lzma
import struct
import zipfile
import zlib
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path, PurePosixPath
from typing import BinaryIO

import msgspec

from ghoststep.files.safe import read_bytes, shown, write_whole
from ghoststep.files.schema import VERSION, DocumentRow, decoded, document_from, document_row, encoded, version_of
from ghoststep.files.sound import decoded_recording
from ghoststep.music.errors import InputError
from ghoststep.session.document.document import Document, Recording

MAX_BYTES = 800_000_000
_MAX_JSON = 80_000_000
MAX_HITS, MAX_SNAPSHOTS = 300_000, 1000
# Whatever zipfile and its decompressors raise on damaged archives, found by fuzzing.
_DAMAGE = (
    zipfile.BadZipFile, zlib.error, lzma.LZMAError, struct.error, EOFError, KeyError, IndexError, ValueError,
    NotImplementedError, RuntimeError, OSError, OverflowError,
)  # fmt: skip
_JSON = "project.json"
_SOUNDS = "sounds"


def save_project(path: Path, document: Document, *, private: bool = False) -> str:
    """Write the document; an interrupted save leaves the old file as it was. A private one is the user's alone to read.

    What was written is read again before it takes the old file's place. Returns a warning where the form does not come
    back as it is, "" else; the hits of the groove always do.

    Raises
    ------
    InputError
        Where it cannot be written.
    """
    told: list[str] = []
    write_whole(
        path, project_writer(document), private=private, check=lambda part: told.append(_read_back(part, document))
    )
    return "".join(told)


def _read_back(part: Path, document: Document) -> str:
    """A warning about the form of what was written; an InputError where anything else is not what was to be saved."""
    try:
        with zipfile.ZipFile(part) as archive:
            damaged = archive.testzip()
            again, _ = _document(_member(archive, _JSON, _MAX_JSON), shown(part))
    except _DAMAGE as error:
        raise InputError(f"What was written cannot be read again ({error}), so the old file was kept.") from error
    if damaged or again.groove.pattern.hits != document.groove.pattern.hits or again.groove != document.groove:
        raise InputError("What was written does not read back as it was, so the old file was kept: save it once more.")
    if again.warnings or again.form != document.form:
        return " ".join(again.warnings) or "The form reads back otherwise than it is; every hit is there."
    return ""


def project_writer(document: Document) -> Callable[[BinaryIO], None]:
    """What writes a document as a project into an open file; a ValueError where its sound was not kept for that."""
    if document.recording is not None and not document.recording.data:
        raise ValueError("a recording that was only heard is to be saved")

    def write(file: BinaryIO) -> None:
        with zipfile.ZipFile(file, "w", zipfile.ZIP_DEFLATED) as archive:
            recording = document.recording
            place = f"{_SOUNDS}/{_plain(recording.name)}" if recording else None
            archive.writestr(_JSON, encoded(document_row(document, place)))
            if recording and place:  # sound hardly shrinks, so do not spend time on it
                archive.writestr(place, recording.data, zipfile.ZIP_STORED)

    return write


def _plain(name: str) -> str:
    """A file name without folders, for use inside the archive."""
    plain = PurePosixPath(name.replace("\\", "/")).name or "recording"
    return plain.encode("utf-8", "replace").decode("utf-8")


def load_project(path: Path) -> Document:
    """Read a project file.

    Raises
    ------
    InputError
        Where it cannot be read, is no project, is damaged, or was saved by a newer version of the program.
    """
    data = read_bytes(path, limit_bytes=MAX_BYTES)
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as archive:
            text = _member(archive, _JSON, _MAX_JSON)
            document, place = _document(text, shown(path))
            recording = _recording(archive, place, shown(path)) if place else None
    except InputError:
        raise
    except _DAMAGE as error:
        raise InputError(
            f"{shown(path)} is damaged or no Ghost Step project. If you have an older copy, open that; an autosave may"
            " be offered when the program starts."
        ) from error
    return replace(document, recording=recording)


def _member(archive: zipfile.ZipFile, name: str, limit: int) -> bytes:
    """A file of the archive, read only as far as its stated size, which is checked first."""
    info = archive.getinfo(name)
    if info.file_size > limit:
        raise InputError(f"{archive.filename or 'The project'} holds a part that is far too large ({name}).")
    with archive.open(info) as file:
        return file.read(limit + 1)


def plain_reason(error: Exception) -> str:
    """What a library says of damaged JSON, with its signs of code as quotation marks."""
    return str(error).replace("`", "'")


def _document(text: bytes, name: str) -> tuple[Document, str | None]:
    try:
        version = version_of(text)
        if version > VERSION:
            raise InputError(
                f"{name} was saved by a newer version of Ghost Step (format {version}; this one reads up to {VERSION})."
                " Please update the program to open it."
            )
        row = decoded(text)
        _check_size(row)
        return document_from(row), row.recording
    except msgspec.DecodeError as error:
        raise InputError(
            f"{name} is damaged: its project.json does not hold what it should ({plain_reason(error)})."
        ) from error
    except InputError as error:
        if "newer version" in str(error):
            raise
        raise InputError(f"{name} is damaged: {error}") from error


def _check_size(row: DocumentRow) -> None:
    """An InputError for more hits or versions than can be read in reasonable time; counted before any is made."""
    hits = len(row.groove.hits) + sum(len(groove.hits) for _, groove in row.snapshots)
    hits += len(row.listening.groove.hits) if row.listening else 0
    if hits > MAX_HITS:
        raise InputError(f"it holds {hits} hits, in all its versions together; at most {MAX_HITS} can be read.")
    if len(row.snapshots) > MAX_SNAPSHOTS:
        raise InputError(f"it holds {len(row.snapshots)} versions; at most {MAX_SNAPSHOTS} can be read.")


def _recording(archive: zipfile.ZipFile, place: str, name: str) -> Recording:
    if place not in archive.namelist():
        raise InputError(f"{name} is damaged: its recording {place} is missing.")
    return decoded_recording(PurePosixPath(place).name, _member(archive, place, MAX_BYTES))
