"""Versions of a groove kept under names, and what blind comparisons chose."""

from dataclasses import replace
from datetime import UTC, datetime

from ghoststep.music.errors import InputError
from ghoststep.session.document.document import Document, Snapshot, Verdict
from ghoststep.session.edits.hit_edits import Edit

MAX_SNAPSHOTS = 200
MAX_NAME = 60


def keep(document: Document, name: str) -> Edit:
    """Keep the groove as it is under a name; the same name again is replaced.

    Raises
    ------
    InputError
        Where the name is empty or too long, or there are too many versions.
    """
    name = " ".join(name.split())
    if not name:
        raise InputError("A snapshot needs a name.")
    if len(name) > MAX_NAME:
        raise InputError(f"A name has at most {MAX_NAME} letters.")
    others = tuple(s for s in document.snapshots if s.name.lower() != name.lower())
    if len(others) >= MAX_SNAPSHOTS:
        raise InputError(f"A project keeps at most {MAX_SNAPSHOTS} snapshots: drop one first.")
    return f"Kept as '{name}'", kept(document, Snapshot(name, document.groove, document.form))


def kept(document: Document, version: Snapshot) -> Document:
    """The document with a version more; one of the same name is replaced."""
    others = tuple(s for s in document.snapshots if s.name.lower() != version.name.lower())
    return replace(document, snapshots=(*others, version))


def snapshot(document: Document, name: str) -> Snapshot:
    """The snapshot of that name; an unknown name is an InputError."""
    found = next((s for s in document.snapshots if s.name.lower() == name.strip().lower()), None)
    if found is None:
        known = ", ".join(s.name for s in document.snapshots) or "none yet"
        raise InputError(f"There is no snapshot '{name}'. Kept are: {known}.")
    return found


def go_back(document: Document, name: str) -> Edit:
    """The groove, and its form, as it was kept; the way on can be undone like any change."""
    found = snapshot(document, name)
    now = found.groove
    groove = document.groove.changed(pattern=now.pattern, feel=now.feel, tempo=now.tempo)
    return f"Back to '{found.name}'", replace(document, groove=replace(groove, feels=now.feels), form=found.form)


def drop(document: Document, name: str) -> Edit:
    found = snapshot(document, name)
    return f"'{found.name}' dropped", replace(
        document, snapshots=tuple(s for s in document.snapshots if s is not found)
    )


def rename(document: Document, name: str) -> Edit:
    """Call the document and its groove something else.

    Raises
    ------
    InputError
        Where the name is empty or too long.
    """
    name = " ".join(name.split())
    if not 1 <= len(name) <= MAX_NAME:
        raise InputError(f"A name has 1 to {MAX_NAME} letters.")
    return f"Called '{name}'", replace(document, name=name, groove=document.groove.changed(name=name))


def judged(document: Document, chosen: str, among: tuple[str, ...]) -> Edit:
    """Write down what a blind comparison chose."""
    verdict = Verdict(chosen, among, datetime.now(UTC).isoformat(timespec="seconds"))
    return f"Chosen blind: '{chosen}'", replace(document, verdicts=(*document.verdicts, verdict))
