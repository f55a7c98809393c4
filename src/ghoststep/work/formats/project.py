"""Projects: everything a document holds."""

import logging
from pathlib import Path

from ghoststep.files.keymap import KeyMap
from ghoststep.files.project import load_project, save_project
from ghoststep.files.safe import shown
from ghoststep.session.document.document import Document
from ghoststep.work.formats import Output

log = logging.getLogger(__name__)


def read(path: Path, keys: KeyMap) -> Document:
    """A project; what was wrong in it is logged."""
    document = load_project(path)
    for warning in document.warnings:
        log.warning("%s: %s", shown(path), warning)
    return document


def write(path: Path, document: Document, output: Output) -> tuple[str, ...]:
    """Save a project."""
    warning = save_project(path, document)
    return (f"{shown(path)} written", *((warning,) if warning else ()))
