"""The user's folders, by the XDG rules."""

import logging
import logging.handlers
from pathlib import Path

import platformdirs

from ghoststep.files.safe import file_trouble

_NAME = "ghost-step"
PROJECT_SUFFIX = ".ghoststep"
FEEL_SUFFIX = ".feel.json"


def settings_folder() -> Path:
    return platformdirs.user_config_path(_NAME)


def state_folder() -> Path:
    """Logs, autosaves and the list of recent files."""
    return platformdirs.user_state_path(_NAME)


def autosave_folder() -> Path:
    return state_folder() / "autosave"


def degrees_file() -> Path:
    """The table of how much a bit and a lot are, where somebody has one of their own."""
    return keys_file().with_name("degrees.txt")


def keys_file() -> Path:
    """The user's own key map, where there is one."""
    return settings_folder() / "keys.csv"


def made(folder: Path, *, private: bool = False) -> Path:
    """The folder, made where it is missing; an InputError where it cannot be. A private one is the user's alone."""
    try:
        folder.mkdir(parents=True, exist_ok=True)
        if private:
            folder.chmod(0o700)
    except OSError as error:
        raise file_trouble(error, folder, "made") from error
    return folder


def log_file() -> Path:
    return state_folder() / "ghost-step.log"


def start_log() -> Path | None:
    """Log to a rotating file in the state folder; None where that is not writable, which stops nobody."""
    folder = state_folder()
    try:
        folder.mkdir(parents=True, exist_ok=True)
        if log_file().exists() and not log_file().is_file():
            return None  # a pipe would keep us waiting
        handler = logging.handlers.RotatingFileHandler(
            log_file(), maxBytes=500_000, backupCount=2, encoding="utf-8", delay=False
        )
    except OSError:
        return None
    handler.setFormatter(logging.Formatter("%(asctime)s %(levelname)s %(name)s: %(message)s"))
    root = logging.getLogger("ghoststep")
    for old in root.handlers[:]:
        root.removeHandler(old)
        old.close()
    root.addHandler(handler)
    root.setLevel(logging.INFO)
    return log_file()
