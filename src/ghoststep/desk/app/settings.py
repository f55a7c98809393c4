"""The window's own settings: where it stood and how it looked. Whatever stands in their place, the program starts."""

import tempfile
from pathlib import Path

from PySide6.QtCore import QByteArray, QSettings

from ghoststep.files.places import settings_folder
from ghoststep.files.safe import read_bytes, shown
from ghoststep.music.errors import InputError

_MAX_BYTES = 1_000_000
_NAME = "window.ini"


def window_settings() -> tuple[QSettings, str]:
    """The settings, and what was ignored ("" for nothing).

    Where no settings can be read, they are kept in a folder of this run alone, so that nothing is overwritten.
    """
    file = settings_folder() / _NAME
    trouble = _trouble(file)
    if trouble:
        file = Path(tempfile.mkdtemp(prefix="ghost-step-")) / _NAME
        trouble = f"{trouble} The window's settings are the usual ones, and are not kept."
    return QSettings(str(file), QSettings.Format.IniFormat), trouble


def _trouble(file: Path) -> str:
    """Why a file cannot hold the settings; the toolkit would wait for ever at a pipe."""
    try:
        if not file.exists():
            return ""
        read_bytes(file, limit_bytes=_MAX_BYTES)
    except InputError as error:
        return "" if _is_empty(file) else str(error)
    except OSError:
        return f"{shown(file)} cannot be read."
    found = QSettings(str(file), QSettings.Format.IniFormat)
    if found.status() != QSettings.Status.NoError:
        return f"{shown(file)} holds no settings."
    return ""


def _is_empty(file: Path) -> bool:
    return file.is_file() and not file.stat().st_size


def geometry_of(settings: QSettings) -> QByteArray | None:
    """Where the window stood, if that is what is written there."""
    found = settings.value("geometry")
    return found if isinstance(found, QByteArray) else None
