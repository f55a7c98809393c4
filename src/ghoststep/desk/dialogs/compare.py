"""Two versions side by side, or heard without their names."""

from pathlib import Path

from ghoststep.desk.dialogs.blind_dialog import BlindDialog
from ghoststep.desk.dialogs.compare_dialog import CompareDialog
from ghoststep.desk.dialogs.questions import ask_open
from ghoststep.desk.model.desk import Desk
from ghoststep.desk.model.tasks import Progress
from ghoststep.desk.parts.widgets import asked
from ghoststep.listen.bars.reading import Hints
from ghoststep.music.errors import InputError
from ghoststep.music.groove import Groove
from ghoststep.session.document.document import Document, Snapshot
from ghoststep.session.document.takeover import NOW, names_of
from ghoststep.session.edits import version_edits as versions
from ghoststep.session.edits.commit import opened


def _versions(desk: Desk) -> list[tuple[str, Groove]]:
    """What can be compared: now, what was kept, what was heard."""
    document = desk.studio.document
    out = [("now", document.groove), *((s.name, s.groove) for s in document.snapshots)]
    if document.listening is not None:
        out.append(("as heard", document.listening.explained.groove))
    if len(out) < 2:
        raise InputError("There is nothing to compare with: keep a version first (Ctrl+Shift+K).")
    return out


def compare(desk: Desk, theirs: str = "", mine: str = NOW) -> None:
    """Two versions, parts or sections side by side, changes taken over singly.

    Raises
    ------
    InputError
        Where there is no other side to compare with.
    """
    if len(names_of(desk.studio.document)) < 2:
        raise InputError("There is nothing to compare with: keep a version first (Ctrl+Shift+K).")
    asked(CompareDialog(desk.studio, desk.at(desk.place), theirs, mine))
    desk.studio.playback.try_out(None)


def compare_with_file(desk: Desk) -> None:
    """Another file becomes a version beside this one, such as the live take beside the studio's; both are compared."""
    path = ask_open(desk, "Compare with")
    if path is not None:
        beside(desk, path)


def beside(desk: Desk, path: Path) -> None:
    """Read or hear a file off the GUI thread, keep it as a version and compare it."""
    from ghoststep.work.formats import is_listenable
    from ghoststep.work.grooves import hear_file
    from ghoststep.work.opening import open_document

    studio, before = desk.studio, desk.studio.document

    def work(progress: Progress) -> Document:
        if is_listenable(path):
            return hear_file(path, studio.keys, Hints(), progress)
        return open_document(path, studio.keys)

    def done(other: Document) -> None:
        if studio.document is not before:
            studio.said.emit("The groove changed meanwhile: compare again.", True)
            return
        version = Snapshot(other.name, other.groove, other.form)
        if studio.edit(lambda d: (f"'{version.name}' stands beside", opened(versions.kept(d, version)))):
            compare(desk, version.name)

    studio.tasks.start(
        "listen", work, done=done,
        failed=lambda words: studio.said.emit(words, True), words=f"Opening {path.name}",
    )  # fmt: skip


def compare_blind(desk: Desk) -> None:
    """Hear versions without their names, choose one, and be told which it was."""
    judge_blind(desk, _versions(desk))


def judge_blind(desk: Desk, among: list[tuple[str, Groove]]) -> None:
    """Let one of some versions be chosen by ear; which it was is told then and kept."""
    dialog = BlindDialog(among, desk.studio.playback.try_out, desk.at(desk.place))
    asked(dialog)
    desk.studio.playback.try_out(None)
    if dialog.verdict is not None:
        chosen, names = dialog.verdict
        desk.studio.edit(lambda d: versions.judged(d, chosen, names))
