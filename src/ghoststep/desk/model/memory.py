"""What outlives a run: recent files, and autosaves to recover after a crash."""

import json
import logging
import os
import time
from contextlib import suppress
from dataclasses import dataclass
from pathlib import Path

from ghoststep.files.places import autosave_folder, made, state_folder
from ghoststep.files.project import PROJECT_SUFFIX, load_project, save_project
from ghoststep.files.safe import write_text
from ghoststep.music.errors import InputError
from ghoststep.session.document.document import Document

log = logging.getLogger(__name__)
MAX_RECENT = 10


def recent_files() -> list[Path]:
    """The files opened last, newest first; those that are gone are left out."""
    try:
        names = json.loads((state_folder() / "recent.json").read_text("utf-8"))
    except (OSError, ValueError):
        return []
    if not isinstance(names, list):
        return []
    paths = [Path(n) for n in names if isinstance(n, str)]
    return [p for p in paths if p.exists()][:MAX_RECENT]


def remember(path: Path) -> None:
    """Put a file on top of the recent ones; a full disk is no reason to bother the user with that."""
    names = [str(path.absolute())] + [str(p) for p in recent_files() if p != path.absolute()]
    try:
        write_text(made(state_folder()) / "recent.json", json.dumps(names[:MAX_RECENT]))
    except InputError as error:
        log.warning("%s", error)


@dataclass(frozen=True)
class Leftover:
    """An autosave of a run that did not end well."""

    file: Path
    saved_at: float

    @property
    def age_words(self) -> str:
        minutes = max(0, round((time.time() - self.saved_at) / 60))
        return "just now" if minutes < 1 else f"{minutes} min ago" if minutes < 120 else f"{minutes // 60} h ago"


def autosave_file() -> Path:
    """This run's own autosave; its name holds the process, so others can tell whether it still runs."""
    return autosave_folder() / f"run-{os.getpid()}{PROJECT_SUFFIX}"


def autosave(document: Document) -> None:
    """Write the document beside, never over, the user's file."""
    made(autosave_folder())
    save_project(autosave_file(), document)


def forget_autosave() -> None:
    with suppress(OSError):
        autosave_file().unlink(missing_ok=True)


def _alive(process: int) -> bool:
    try:
        os.kill(process, 0)
    except ProcessLookupError:
        return False
    except PermissionError:
        return True
    return True


def leftovers() -> list[Leftover]:
    """Autosaves whose run is over, newest first."""
    found = []
    with suppress(OSError):
        for file in autosave_folder().glob(f"run-*{PROJECT_SUFFIX}"):
            number = file.name.removeprefix("run-").removesuffix(PROJECT_SUFFIX)
            if number.isdecimal() and int(number) != os.getpid() and not _alive(int(number)):
                found.append(Leftover(file, file.stat().st_mtime))
    return sorted(found, key=lambda x: -x.saved_at)


def recovered(leftover: Leftover) -> Document:
    return load_project(leftover.file)


def drop(leftover: Leftover) -> None:
    with suppress(OSError):
        leftover.file.unlink(missing_ok=True)
